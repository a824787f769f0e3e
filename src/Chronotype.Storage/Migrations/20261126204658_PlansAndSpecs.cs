using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class PlansAndSpecs : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Companions",
                table: "Studio",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "LeavesSettingsBehind",
                table: "Studio",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "PlanFile",
                table: "Projects",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Spec",
                table: "Projects",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "TemplateSince",
                table: "Pieces",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "CanBeMadeAgain",
                table: "Entries",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<int>(
                name: "Measures_Bits",
                table: "ContentFacts",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Measures_Channels",
                table: "ContentFacts",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Measures_Colour",
                table: "ContentFacts",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Measures_Depth",
                table: "ContentFacts",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Measures_FrameHeight",
                table: "ContentFacts",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Measures_FrameWidth",
                table: "ContentFacts",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<double>(
                name: "Measures_FramesPerSecond",
                table: "ContentFacts",
                type: "REAL",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Measures_Height",
                table: "ContentFacts",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<double>(
                name: "Measures_Resolution",
                table: "ContentFacts",
                type: "REAL",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Measures_SampleRate",
                table: "ContentFacts",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Measures_Width",
                table: "ContentFacts",
                type: "INTEGER",
                nullable: true);

            // What was read before says it, too; 0 stands for what is coded, and a drawing (2) has any size.
            migrationBuilder.Sql(
                """
                UPDATE "ContentFacts" SET
                    "Measures_SampleRate" = nullif(json_extract("Facts", '$.sound.sampleRate'), 0),
                    "Measures_Bits" = nullif(json_extract("Facts", '$.sound.bits'), 0),
                    "Measures_Channels" = nullif(json_extract("Facts", '$.sound.channels'), 0),
                    "Measures_Width" = CASE "Format" WHEN 2 THEN NULL ELSE json_extract("Facts", '$.picture.width') END,
                    "Measures_Height" = CASE "Format" WHEN 2 THEN NULL ELSE json_extract("Facts", '$.picture.height') END,
                    "Measures_Resolution" = json_extract("Facts", '$.picture.resolution'),
                    "Measures_Colour" = CASE json_extract("Facts", '$.picture.colour')
                        WHEN 'other' THEN 0 WHEN 'grey' THEN 1 WHEN 'rgb' THEN 2 WHEN 'cmyk' THEN 3 WHEN 'lab' THEN 4 END,
                    "Measures_Depth" = json_extract("Facts", '$.picture.depth'),
                    "Measures_FrameWidth" = json_extract("Facts", '$.film.width'),
                    "Measures_FrameHeight" = json_extract("Facts", '$.film.height'),
                    "Measures_FramesPerSecond" = coalesce(
                        nullif(json_extract("Facts", '$.film.framesPerSecond'), 0),
                        nullif(json_extract("Facts", '$.timeline.rate'), 0))
                WHERE json_valid("Facts")
                """
            );

            migrationBuilder.CreateTable(
                name: "Plans",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    File = table.Column<string>(type: "TEXT", nullable: true),
                    FileBefore = table.Column<string>(type: "TEXT", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    ChangedById = table.Column<Guid>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Plans", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Pieces_FromSaveId",
                table: "Pieces",
                column: "FromSaveId",
                filter: "\"FromSaveId\" IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Plans_Key",
                table: "Plans",
                column: "Key",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Plans");

            migrationBuilder.DropIndex(
                name: "IX_Pieces_FromSaveId",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "Companions",
                table: "Studio");

            migrationBuilder.DropColumn(
                name: "LeavesSettingsBehind",
                table: "Studio");

            migrationBuilder.DropColumn(
                name: "PlanFile",
                table: "Projects");

            migrationBuilder.DropColumn(
                name: "Spec",
                table: "Projects");

            migrationBuilder.DropColumn(
                name: "TemplateSince",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "CanBeMadeAgain",
                table: "Entries");

            migrationBuilder.DropColumn(
                name: "Measures_Bits",
                table: "ContentFacts");

            migrationBuilder.DropColumn(
                name: "Measures_Channels",
                table: "ContentFacts");

            migrationBuilder.DropColumn(
                name: "Measures_Colour",
                table: "ContentFacts");

            migrationBuilder.DropColumn(
                name: "Measures_Depth",
                table: "ContentFacts");

            migrationBuilder.DropColumn(
                name: "Measures_FrameHeight",
                table: "ContentFacts");

            migrationBuilder.DropColumn(
                name: "Measures_FrameWidth",
                table: "ContentFacts");

            migrationBuilder.DropColumn(
                name: "Measures_FramesPerSecond",
                table: "ContentFacts");

            migrationBuilder.DropColumn(
                name: "Measures_Height",
                table: "ContentFacts");

            migrationBuilder.DropColumn(
                name: "Measures_Resolution",
                table: "ContentFacts");

            migrationBuilder.DropColumn(
                name: "Measures_SampleRate",
                table: "ContentFacts");

            migrationBuilder.DropColumn(
                name: "Measures_Width",
                table: "ContentFacts");
        }
    }
}
