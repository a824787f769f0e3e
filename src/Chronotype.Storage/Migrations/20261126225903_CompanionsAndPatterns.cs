using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class CompanionsAndPatterns : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "ReferencePatterns",
                table: "Studio",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "Companions",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: false),
                    EntryId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Tail = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Size = table.Column<long>(type: "INTEGER", nullable: false),
                    CameAt = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Companions", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Companions_Saves_SaveId",
                        column: x => x.SaveId,
                        principalTable: "Saves",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Companions_EntryId",
                table: "Companions",
                column: "EntryId");

            migrationBuilder.CreateIndex(
                name: "IX_Companions_Hash",
                table: "Companions",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_Companions_SaveId_EntryId",
                table: "Companions",
                columns: new[] { "SaveId", "EntryId" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Companions");

            migrationBuilder.DropColumn(
                name: "ReferencePatterns",
                table: "Studio");
        }
    }
}
