using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class LinesAndTree : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Saves_PieceId_Number",
                table: "Saves");

            migrationBuilder.AddColumn<Guid>(
                name: "LineId",
                table: "Saves",
                type: "TEXT",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.CreateTable(
                name: "Entries",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Kind = table.Column<int>(type: "INTEGER", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    PathKey = table.Column<string>(type: "TEXT", nullable: false),
                    Role = table.Column<int>(type: "INTEGER", nullable: false),
                    Purpose = table.Column<string>(type: "TEXT", nullable: false),
                    Order = table.Column<int>(type: "INTEGER", nullable: false),
                    PieceId = table.Column<Guid>(type: "TEXT", nullable: true),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: true),
                    MilestoneId = table.Column<Guid>(type: "TEXT", nullable: true),
                    DeletedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DeletedById = table.Column<Guid>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Entries", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Entries_Pieces_PieceId",
                        column: x => x.PieceId,
                        principalTable: "Pieces",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "FK_Entries_Projects_ProjectId",
                        column: x => x.ProjectId,
                        principalTable: "Projects",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Lines",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    PieceId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false, collation: "NOCASE"),
                    IsCurrent = table.Column<bool>(type: "INTEGER", nullable: false),
                    HighestNumber = table.Column<int>(type: "INTEGER", nullable: true),
                    LeftLineId = table.Column<Guid>(type: "TEXT", nullable: true),
                    LeftAt = table.Column<int>(type: "INTEGER", nullable: true),
                    StartedAt = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Lines", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Lines_Pieces_PieceId",
                        column: x => x.PieceId,
                        principalTable: "Pieces",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "FileContents",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    EntryId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Sequence = table.Column<int>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Size = table.Column<long>(type: "INTEGER", nullable: false),
                    ReceivedName = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    ById = table.Column<Guid>(type: "TEXT", nullable: false),
                    BroughtBackFrom = table.Column<int>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_FileContents", x => x.Id);
                    table.ForeignKey(
                        name: "FK_FileContents_Entries_EntryId",
                        column: x => x.EntryId,
                        principalTable: "Entries",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Entries_PieceId",
                table: "Entries",
                column: "PieceId");

            migrationBuilder.CreateIndex(
                name: "IX_Entries_ProjectId_PathKey",
                table: "Entries",
                columns: new[] { "ProjectId", "PathKey" },
                unique: true,
                filter: "\"DeletedAt\" IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Entries_SaveId",
                table: "Entries",
                column: "SaveId");

            migrationBuilder.CreateIndex(
                name: "IX_FileContents_EntryId_Sequence",
                table: "FileContents",
                columns: new[] { "EntryId", "Sequence" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_FileContents_Hash",
                table: "FileContents",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_Lines_PieceId",
                table: "Lines",
                column: "PieceId",
                unique: true,
                filter: "\"IsCurrent\"");

            migrationBuilder.CreateIndex(
                name: "IX_Lines_PieceId_Name",
                table: "Lines",
                columns: new[] { "PieceId", "Name" },
                unique: true);

            // Every piece's versions are its main line's; the line is known by the piece's own id.
            migrationBuilder.Sql(
                """
                INSERT INTO "Lines" ("Id", "PieceId", "Name", "IsCurrent", "HighestNumber", "StartedAt")
                SELECT "Id", "Id", '', 1, "HighestNumber", "StartedAt" FROM "Pieces"
                """);
            migrationBuilder.Sql("""UPDATE "Saves" SET "LineId" = "PieceId" """);

            // What the plans said by their keys, the tree says from here on. Roles: 5 current files, 6 versions, 7 milestone copies.
            migrationBuilder.Sql(
                """
                INSERT INTO "Entries" ("Id", "ProjectId", "Kind", "Path", "PathKey", "Role", "Purpose", "Order")
                SELECT upper(hex(randomblob(4)) || '-' || hex(randomblob(2)) || '-' || hex(randomblob(2)) || '-' || hex(randomblob(2)) || '-' || hex(randomblob(6))),
                    f."ProjectId", 0, f."Path", lower(f."Path"),
                    CASE
                        WHEN f."Path" = 'working/versions' THEN 6
                        WHEN f."Path" = 'working/milestones' THEN 7
                        WHEN f."Path" = CASE p."Plan" WHEN 'print' THEN 'working' WHEN 'animation' THEN 'working/scenes' ELSE 'working/mixes' END THEN 5
                        ELSE f."Role" END,
                    f."Purpose", f."Order"
                FROM "Folders" f JOIN "Projects" p ON p."Id" = f."ProjectId"
                """);
            migrationBuilder.Sql(
                """
                INSERT OR IGNORE INTO "Entries" ("Id", "ProjectId", "Kind", "Path", "PathKey", "Role", "Purpose", "Order", "PieceId")
                SELECT i."Id", i."ProjectId", 1, i."Folder" || '/' || i."CurrentName" || i."Extension", lower(i."Folder" || '/' || i."CurrentName" || i."Extension"), 5, '', 0, i."Id"
                FROM "Pieces" i
                """);
            migrationBuilder.Sql(
                """
                INSERT OR IGNORE INTO "Entries" ("Id", "ProjectId", "Kind", "Path", "PathKey", "Role", "Purpose", "Order", "PieceId")
                SELECT i."Id", i."ProjectId", 1, i."Folder" || '/' || i."CurrentName" || i."Extension" || ' (' || substr(i."Id", 1, 8) || ')', lower(i."Folder" || '/' || i."CurrentName" || i."Extension" || ' (' || substr(i."Id", 1, 8) || ')'), 5, '', 0, i."Id"
                FROM "Pieces" i
                """);
            migrationBuilder.Sql(
                """
                INSERT OR IGNORE INTO "Entries" ("Id", "ProjectId", "Kind", "Path", "PathKey", "Role", "Purpose", "Order", "PieceId", "SaveId")
                SELECT s."Id", i."ProjectId", 2, 'working/versions/' || s."ExactName", lower('working/versions/' || s."ExactName"), 6, '', 0, i."Id", s."Id"
                FROM "Saves" s JOIN "Pieces" i ON i."Id" = s."PieceId" WHERE s."Number" IS NOT NULL
                """);
            migrationBuilder.Sql(
                """
                INSERT OR IGNORE INTO "Entries" ("Id", "ProjectId", "Kind", "Path", "PathKey", "Role", "Purpose", "Order", "PieceId", "SaveId")
                SELECT s."Id", i."ProjectId", 2, 'working/versions/' || s."ExactName" || ' (' || substr(s."Id", 1, 8) || ')', lower('working/versions/' || s."ExactName" || ' (' || substr(s."Id", 1, 8) || ')'), 6, '', 0, i."Id", s."Id"
                FROM "Saves" s JOIN "Pieces" i ON i."Id" = s."PieceId" WHERE s."Number" IS NOT NULL
                """);
            migrationBuilder.Sql(
                """
                INSERT OR IGNORE INTO "Entries" ("Id", "ProjectId", "Kind", "Path", "PathKey", "Role", "Purpose", "Order", "PieceId", "SaveId", "MilestoneId")
                SELECT m."Id", i."ProjectId", 3, 'working/milestones/' || m."ExactName", lower('working/milestones/' || m."ExactName"), 7, '', 0, i."Id", s."Id", m."Id"
                FROM "Milestones" m JOIN "Saves" s ON s."Id" = m."SaveId" JOIN "Pieces" i ON i."Id" = s."PieceId"
                """);
            migrationBuilder.Sql(
                """
                INSERT OR IGNORE INTO "Entries" ("Id", "ProjectId", "Kind", "Path", "PathKey", "Role", "Purpose", "Order", "PieceId", "SaveId", "MilestoneId")
                SELECT m."Id", i."ProjectId", 3, 'working/milestones/' || m."ExactName" || ' (' || substr(m."Id", 1, 8) || ')', lower('working/milestones/' || m."ExactName" || ' (' || substr(m."Id", 1, 8) || ')'), 7, '', 0, i."Id", s."Id", m."Id"
                FROM "Milestones" m JOIN "Saves" s ON s."Id" = m."SaveId" JOIN "Pieces" i ON i."Id" = s."PieceId"
                """);

            migrationBuilder.DropTable(
                name: "Folders");

            migrationBuilder.DropColumn(
                name: "Folder",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "HighestNumber",
                table: "Pieces");

            migrationBuilder.CreateIndex(
                name: "IX_Saves_LineId_Number",
                table: "Saves",
                columns: new[] { "LineId", "Number" },
                unique: true);

            migrationBuilder.AddForeignKey(
                name: "FK_Saves_Lines_LineId",
                table: "Saves",
                column: "LineId",
                principalTable: "Lines",
                principalColumn: "Id",
                onDelete: ReferentialAction.Restrict);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_Saves_Lines_LineId",
                table: "Saves");

            migrationBuilder.DropIndex(
                name: "IX_Saves_LineId_Number",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "LineId",
                table: "Saves");

            migrationBuilder.AddColumn<string>(
                name: "Folder",
                table: "Pieces",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<int>(
                name: "HighestNumber",
                table: "Pieces",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "Folders",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Order = table.Column<int>(type: "INTEGER", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Purpose = table.Column<string>(type: "TEXT", nullable: false),
                    Role = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Folders", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Folders_Projects_ProjectId",
                        column: x => x.ProjectId,
                        principalTable: "Projects",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Saves_PieceId_Number",
                table: "Saves",
                columns: new[] { "PieceId", "Number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Folders_ProjectId",
                table: "Folders",
                column: "ProjectId");

            migrationBuilder.Sql(
                """
                UPDATE "Pieces" SET
                    "HighestNumber" = (SELECT l."HighestNumber" FROM "Lines" l WHERE l."PieceId" = "Pieces"."Id" AND l."IsCurrent"),
                    "Folder" = coalesce((SELECT substr(e."Path", 1, length(e."Path") - length("CurrentName") - length("Extension") - 1)
                        FROM "Entries" e WHERE e."PieceId" = "Pieces"."Id" AND e."Kind" = 1), 'working')
                """);
            migrationBuilder.Sql(
                """
                INSERT INTO "Folders" ("ProjectId", "Order", "Path", "Purpose", "Role")
                SELECT "ProjectId", "Order", "Path", "Purpose", CASE WHEN "Role" > 4 THEN 1 ELSE "Role" END
                FROM "Entries" WHERE "Kind" = 0 AND "DeletedAt" IS NULL
                """);

            migrationBuilder.DropTable(
                name: "FileContents");

            migrationBuilder.DropTable(
                name: "Lines");

            migrationBuilder.DropTable(
                name: "Entries");
        }
    }
}
