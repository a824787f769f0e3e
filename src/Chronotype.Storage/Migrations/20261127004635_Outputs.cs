using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class Outputs : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "Outputs",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    EntryId = table.Column<Guid>(type: "TEXT", nullable: false),
                    PieceId = table.Column<Guid>(type: "TEXT", nullable: false),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Source = table.Column<string>(type: "TEXT", nullable: false),
                    RecipeKey = table.Column<string>(type: "TEXT", nullable: false),
                    Recipe = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    ById = table.Column<Guid>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Outputs", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Outputs_EntryId",
                table: "Outputs",
                column: "EntryId");

            migrationBuilder.CreateIndex(
                name: "IX_Outputs_PieceId",
                table: "Outputs",
                column: "PieceId");

            migrationBuilder.CreateIndex(
                name: "IX_Outputs_SaveId",
                table: "Outputs",
                column: "SaveId");

            migrationBuilder.CreateIndex(
                name: "IX_Outputs_Source",
                table: "Outputs",
                column: "Source");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Outputs");
        }
    }
}
