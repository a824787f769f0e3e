using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class PlacesAndSessions : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Pieces_ProjectId_CurrentName",
                table: "Pieces");

            migrationBuilder.AddColumn<long>(
                name: "DiscardedAt",
                table: "Saves",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "DiscardedById",
                table: "Saves",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "NewBytes",
                table: "Saves",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Cause",
                table: "RenameRuns",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<Guid>(
                name: "PieceId",
                table: "RenameRuns",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "DeletedAt",
                table: "Projects",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "DeletedById",
                table: "Projects",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "PutAwayAt",
                table: "Projects",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "DeletedAt",
                table: "Pieces",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "DeletedById",
                table: "Pieces",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "PutAwayAt",
                table: "Pieces",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Dates",
                table: "People",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<int>(
                name: "Theme",
                table: "People",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.CreateTable(
                name: "ConventionDrafts",
                columns: table => new
                {
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Draft = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_ConventionDrafts", x => x.PersonId);
                    table.ForeignKey(
                        name: "FK_ConventionDrafts_People_PersonId",
                        column: x => x.PersonId,
                        principalTable: "People",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Sessions",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: false),
                    StartedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    SeenAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Address = table.Column<string>(type: "TEXT", nullable: false),
                    Browser = table.Column<string>(type: "TEXT", maxLength: 300, nullable: false),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Sessions", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Sessions_People_PersonId",
                        column: x => x.PersonId,
                        principalTable: "People",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_SaveFiles_Hash",
                table: "SaveFiles",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_Pieces_ProjectId_CurrentName",
                table: "Pieces",
                columns: new[] { "ProjectId", "CurrentName" },
                unique: true,
                filter: "\"DeletedAt\" IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Sessions_PersonId",
                table: "Sessions",
                column: "PersonId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "ConventionDrafts");

            migrationBuilder.DropTable(
                name: "Sessions");

            migrationBuilder.DropIndex(
                name: "IX_SaveFiles_Hash",
                table: "SaveFiles");

            migrationBuilder.DropIndex(
                name: "IX_Pieces_ProjectId_CurrentName",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "DiscardedAt",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "DiscardedById",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "NewBytes",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "Cause",
                table: "RenameRuns");

            migrationBuilder.DropColumn(
                name: "PieceId",
                table: "RenameRuns");

            migrationBuilder.DropColumn(
                name: "DeletedAt",
                table: "Projects");

            migrationBuilder.DropColumn(
                name: "DeletedById",
                table: "Projects");

            migrationBuilder.DropColumn(
                name: "PutAwayAt",
                table: "Projects");

            migrationBuilder.DropColumn(
                name: "DeletedAt",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "DeletedById",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "PutAwayAt",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "Dates",
                table: "People");

            migrationBuilder.DropColumn(
                name: "Theme",
                table: "People");

            migrationBuilder.CreateIndex(
                name: "IX_Pieces_ProjectId_CurrentName",
                table: "Pieces",
                columns: new[] { "ProjectId", "CurrentName" },
                unique: true);
        }
    }
}
