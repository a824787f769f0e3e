using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class Faces : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "FaceHash",
                table: "Saves",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "Faces",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Size = table.Column<long>(type: "INTEGER", nullable: false),
                    Origin = table.Column<int>(type: "INTEGER", nullable: false),
                    AttachedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    AttachedById = table.Column<Guid>(type: "TEXT", nullable: false),
                    TakenOffAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Faces", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Faces_Saves_SaveId",
                        column: x => x.SaveId,
                        principalTable: "Saves",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Faces_Hash",
                table: "Faces",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_Faces_SaveId",
                table: "Faces",
                column: "SaveId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Faces");

            migrationBuilder.DropColumn(
                name: "FaceHash",
                table: "Saves");
        }
    }
}
