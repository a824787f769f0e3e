using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class PartsAndShare : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(
                name: "Aside",
                table: "Saves",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "IsCurrent",
                table: "Saves",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "FromPart",
                table: "Pieces",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "IsReader",
                table: "People",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "SeesSome",
                table: "People",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<long>(
                name: "DroppedAt",
                table: "Lines",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "DroppedById",
                table: "Lines",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "StartedById",
                table: "Lines",
                type: "TEXT",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.AddColumn<Guid>(
                name: "LineId",
                table: "Entries",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "DeviceKeys",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    MadeAt = table.Column<long>(type: "INTEGER", nullable: false),
                    UsedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Address = table.Column<string>(type: "TEXT", nullable: false),
                    Program = table.Column<string>(type: "TEXT", nullable: false),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_DeviceKeys", x => x.Id);
                    table.ForeignKey(
                        name: "FK_DeviceKeys_People_PersonId",
                        column: x => x.PersonId,
                        principalTable: "People",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "ProjectAccess",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_ProjectAccess", x => x.Id);
                    table.ForeignKey(
                        name: "FK_ProjectAccess_People_PersonId",
                        column: x => x.PersonId,
                        principalTable: "People",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_ProjectAccess_Projects_ProjectId",
                        column: x => x.ProjectId,
                        principalTable: "Projects",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "SharedFiles",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    PathKey = table.Column<string>(type: "TEXT", nullable: false),
                    FolderKey = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: true),
                    Size = table.Column<long>(type: "INTEGER", nullable: false),
                    IsFolder = table.Column<bool>(type: "INTEGER", nullable: false),
                    Within = table.Column<string>(type: "TEXT", nullable: true),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    ById = table.Column<Guid>(type: "TEXT", nullable: false),
                    NewBytes = table.Column<long>(type: "INTEGER", nullable: true),
                    SettledAt = table.Column<long>(type: "INTEGER", nullable: true),
                    LineId = table.Column<Guid>(type: "TEXT", nullable: true),
                    PieceId = table.Column<Guid>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_SharedFiles", x => x.Id);
                    table.ForeignKey(
                        name: "FK_SharedFiles_Projects_ProjectId",
                        column: x => x.ProjectId,
                        principalTable: "Projects",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "SharedProperties",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false),
                    PathKey = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Xml = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_SharedProperties", x => x.Id);
                    table.ForeignKey(
                        name: "FK_SharedProperties_Projects_ProjectId",
                        column: x => x.ProjectId,
                        principalTable: "Projects",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            // The newest that is sound, or the newest; a piece of before has one line.
            migrationBuilder.Sql(
                """
                UPDATE "Saves" SET "IsCurrent" = 1 WHERE "DiscardedAt" IS NULL AND "Id" = (
                    SELECT n."Id" FROM "Saves" n WHERE n."PieceId" = "Saves"."PieceId" AND n."DiscardedAt" IS NULL
                    ORDER BY EXISTS (SELECT 1 FROM "ContentFacts" f WHERE f."Content" = n."MainHash" AND f."State" = 1), n."Sequence" DESC
                    LIMIT 1)
                """
            );

            migrationBuilder.CreateIndex(
                name: "IX_Saves_Current",
                table: "Saves",
                column: "PieceId",
                unique: true,
                filter: "\"IsCurrent\"");

            migrationBuilder.CreateIndex(
                name: "IX_DeviceKeys_Hash",
                table: "DeviceKeys",
                column: "Hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_DeviceKeys_PersonId",
                table: "DeviceKeys",
                column: "PersonId");

            migrationBuilder.CreateIndex(
                name: "IX_ProjectAccess_PersonId_ProjectId",
                table: "ProjectAccess",
                columns: new[] { "PersonId", "ProjectId" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_ProjectAccess_ProjectId",
                table: "ProjectAccess",
                column: "ProjectId");

            migrationBuilder.CreateIndex(
                name: "IX_SharedFiles_At",
                table: "SharedFiles",
                column: "At");

            migrationBuilder.CreateIndex(
                name: "IX_SharedFiles_PieceId_LineId_Within",
                table: "SharedFiles",
                columns: new[] { "PieceId", "LineId", "Within" });

            migrationBuilder.CreateIndex(
                name: "IX_SharedFiles_ProjectId_FolderKey",
                table: "SharedFiles",
                columns: new[] { "ProjectId", "FolderKey" });

            migrationBuilder.CreateIndex(
                name: "IX_SharedFiles_ProjectId_PathKey",
                table: "SharedFiles",
                columns: new[] { "ProjectId", "PathKey" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_SharedProperties_ProjectId_PathKey_Name",
                table: "SharedProperties",
                columns: new[] { "ProjectId", "PathKey", "Name" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "DeviceKeys");

            migrationBuilder.DropTable(
                name: "ProjectAccess");

            migrationBuilder.DropTable(
                name: "SharedFiles");

            migrationBuilder.DropTable(
                name: "SharedProperties");

            migrationBuilder.DropIndex(
                name: "IX_Saves_Current",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "Aside",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "IsCurrent",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "FromPart",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "IsReader",
                table: "People");

            migrationBuilder.DropColumn(
                name: "SeesSome",
                table: "People");

            migrationBuilder.DropColumn(
                name: "DroppedAt",
                table: "Lines");

            migrationBuilder.DropColumn(
                name: "DroppedById",
                table: "Lines");

            migrationBuilder.DropColumn(
                name: "StartedById",
                table: "Lines");

            migrationBuilder.DropColumn(
                name: "LineId",
                table: "Entries");
        }
    }
}
