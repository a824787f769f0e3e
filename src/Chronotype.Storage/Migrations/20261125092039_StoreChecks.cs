using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class StoreChecks : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "StoreChecks",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    StartedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Share = table.Column<double>(type: "REAL", nullable: false),
                    BytesRead = table.Column<long>(type: "INTEGER", nullable: false),
                    DamagedPlaces = table.Column<int>(type: "INTEGER", nullable: false),
                    IndexFault = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_StoreChecks", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "CheckDamage",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    CheckId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    UnreadableBytes = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_CheckDamage", x => x.Id);
                    table.ForeignKey(
                        name: "FK_CheckDamage_StoreChecks_CheckId",
                        column: x => x.CheckId,
                        principalTable: "StoreChecks",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_CheckDamage_CheckId",
                table: "CheckDamage",
                column: "CheckId");

            migrationBuilder.CreateIndex(
                name: "IX_StoreChecks_EndedAt",
                table: "StoreChecks",
                column: "EndedAt");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "CheckDamage");

            migrationBuilder.DropTable(
                name: "StoreChecks");
        }
    }
}
