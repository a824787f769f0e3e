using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class LooseSaves : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Saves_Identity",
                table: "Saves");

            migrationBuilder.CreateIndex(
                name: "IX_Saves_Identity_PieceId",
                table: "Saves",
                columns: new[] { "Identity", "PieceId" });

            migrationBuilder.CreateIndex(
                name: "IX_Saves_Loose",
                table: "Saves",
                columns: new[] { "PieceId", "Sequence" },
                filter: "Number IS NULL");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Saves_Identity_PieceId",
                table: "Saves");

            migrationBuilder.DropIndex(
                name: "IX_Saves_Loose",
                table: "Saves");

            migrationBuilder.CreateIndex(
                name: "IX_Saves_Identity",
                table: "Saves",
                column: "Identity");
        }
    }
}
