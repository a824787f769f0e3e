using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class PlacesAndLinks : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<long>(
                name: "LinkedAt",
                table: "SaveFiles",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "FromEntryId",
                table: "Pieces",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "FromSaveId",
                table: "Pieces",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "LinkedAt",
                table: "FileContents",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "FolderKey",
                table: "Entries",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<long>(
                name: "StandsSince",
                table: "Entries",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            // Nobody wrote down when what is there came to its place, so it is taken to have stood there from its beginning.
            migrationBuilder.Sql(
                """
                UPDATE "Entries" SET "StandsSince" = coalesce(
                    (SELECT m."MarkedAt" FROM "Milestones" m WHERE m."Id" = "Entries"."MilestoneId"),
                    (SELECT coalesce(s."KeptAt", s."ArrivedAt") FROM "Saves" s WHERE s."Id" = "Entries"."SaveId"),
                    (SELECT i."StartedAt" FROM "Pieces" i WHERE i."Id" = "Entries"."PieceId"),
                    (SELECT min(c."At") FROM "FileContents" c WHERE c."EntryId" = "Entries"."Id"),
                    (SELECT p."StartedAt" FROM "Projects" p WHERE p."Id" = "Entries"."ProjectId"),
                    0)
                """
            );
            // What is before the last slash: all that is left when every character that is no slash is taken off the end.
            migrationBuilder.Sql(
                """
                UPDATE "Entries" SET "FolderKey" = rtrim(rtrim("PathKey", replace("PathKey", '/', '')), '/')
                """
            );

            migrationBuilder.CreateTable(
                name: "Links",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SaveFileId = table.Column<long>(type: "INTEGER", nullable: true),
                    FileContentId = table.Column<Guid>(type: "TEXT", nullable: true),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: true),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Written = table.Column<string>(type: "TEXT", nullable: false),
                    Place = table.Column<string>(type: "TEXT", nullable: false),
                    Times = table.Column<int>(type: "INTEGER", nullable: false),
                    TargetKey = table.Column<string>(type: "TEXT", nullable: true),
                    State = table.Column<int>(type: "INTEGER", nullable: false),
                    SeenPath = table.Column<string>(type: "TEXT", nullable: true),
                    SeenEntryId = table.Column<Guid>(type: "TEXT", nullable: true),
                    SeenHash = table.Column<string>(type: "TEXT", nullable: true),
                    SeenSize = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Links", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Links_FileContents_FileContentId",
                        column: x => x.FileContentId,
                        principalTable: "FileContents",
                        principalColumn: "Id");
                    table.ForeignKey(
                        name: "FK_Links_SaveFiles_SaveFileId",
                        column: x => x.SaveFileId,
                        principalTable: "SaveFiles",
                        principalColumn: "Id");
                    table.ForeignKey(
                        name: "FK_Links_Saves_SaveId",
                        column: x => x.SaveId,
                        principalTable: "Saves",
                        principalColumn: "Id");
                });

            migrationBuilder.CreateTable(
                name: "PastPlaces",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    EntryId = table.Column<Guid>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    PathKey = table.Column<string>(type: "TEXT", nullable: false),
                    Role = table.Column<int>(type: "INTEGER", nullable: false),
                    From = table.Column<long>(type: "INTEGER", nullable: false),
                    Until = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_PastPlaces", x => x.Id);
                    table.ForeignKey(
                        name: "FK_PastPlaces_Entries_EntryId",
                        column: x => x.EntryId,
                        principalTable: "Entries",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Pieces_FromEntryId",
                table: "Pieces",
                column: "FromEntryId",
                filter: "\"FromEntryId\" IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Entries_ProjectId_FolderKey_Kind",
                table: "Entries",
                columns: new[] { "ProjectId", "FolderKey", "Kind" },
                filter: "\"DeletedAt\" IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Links_FileContentId",
                table: "Links",
                column: "FileContentId");

            migrationBuilder.CreateIndex(
                name: "IX_Links_ProjectId_TargetKey",
                table: "Links",
                columns: new[] { "ProjectId", "TargetKey" });

            migrationBuilder.CreateIndex(
                name: "IX_Links_SaveFileId",
                table: "Links",
                column: "SaveFileId");

            migrationBuilder.CreateIndex(
                name: "IX_Links_SaveId",
                table: "Links",
                column: "SaveId");

            migrationBuilder.CreateIndex(
                name: "IX_Links_SeenEntryId",
                table: "Links",
                column: "SeenEntryId",
                filter: "\"SeenEntryId\" IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Links_SeenHash",
                table: "Links",
                column: "SeenHash",
                filter: "\"SeenHash\" IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_PastPlaces_EntryId",
                table: "PastPlaces",
                column: "EntryId");

            migrationBuilder.CreateIndex(
                name: "IX_PastPlaces_ProjectId_PathKey",
                table: "PastPlaces",
                columns: new[] { "ProjectId", "PathKey" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Links");

            migrationBuilder.DropTable(
                name: "PastPlaces");

            migrationBuilder.DropIndex(
                name: "IX_Pieces_FromEntryId",
                table: "Pieces");

            migrationBuilder.DropIndex(
                name: "IX_Entries_ProjectId_FolderKey_Kind",
                table: "Entries");

            migrationBuilder.DropColumn(
                name: "LinkedAt",
                table: "SaveFiles");

            migrationBuilder.DropColumn(
                name: "FromEntryId",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "FromSaveId",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "LinkedAt",
                table: "FileContents");

            migrationBuilder.DropColumn(
                name: "FolderKey",
                table: "Entries");

            migrationBuilder.DropColumn(
                name: "StandsSince",
                table: "Entries");
        }
    }
}
