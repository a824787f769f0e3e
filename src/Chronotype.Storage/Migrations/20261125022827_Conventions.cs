using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class Conventions : Migration
    {
        private const string FoundingConvention =
            """
            {"chronotype":1,"filler":"tbd","slots":[{"label":"client","kind":"code","list":"client","join":""},{"label":"subject","kind":"words","maxLength":40,"joiner":"-","case":"lower","join":"_"},{"label":"function","kind":"code","list":"function","join":"_"},{"label":"hand","kind":"hand","join":"_"},{"label":"version","kind":"version","width":3,"start":1,"lead":"","join":"_"},{"label":"milestone","kind":"milestone","width":2,"lead":"M","join":"_"}],"forms":{"current":["client","subject","function"],"working":["client","subject","function","hand","version"],"milestone":["client","subject","function","milestone"]}}
            """;

        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // What a piece is called by was two columns, and becomes one object.
            migrationBuilder.Sql("UPDATE Pieces SET Subject = json_object('subject', Subject, 'function', Function);");

            // Every project began with the same convention, but for the first number; it is written in the form of a file now.
            migrationBuilder.Sql($"""
                UPDATE Projects SET Convention = replace('{FoundingConvention}', '"start":1', '"start":' || json_extract(Convention, '$.slots[4].rule.start'))
                WHERE json_extract(Convention, '$.chronotype') IS NULL AND json_extract(Convention, '$.slots[4].rule.start') IS NOT NULL;
                """);

            migrationBuilder.RenameColumn(
                name: "Subject",
                table: "Pieces",
                newName: "Slots");

            migrationBuilder.DropColumn(
                name: "Function",
                table: "Pieces");

            migrationBuilder.AddColumn<string>(
                name: "Convention",
                table: "Studio",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "ConventionBefore",
                table: "Studio",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "RenameRuns",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    ById = table.Column<Guid>(type: "TEXT", nullable: false),
                    Before = table.Column<string>(type: "TEXT", nullable: false),
                    After = table.Column<string>(type: "TEXT", nullable: false),
                    UndoneAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_RenameRuns", x => x.Id);
                    table.ForeignKey(
                        name: "FK_RenameRuns_Projects_ProjectId",
                        column: x => x.ProjectId,
                        principalTable: "Projects",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "RenamedNames",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false),
                    PieceId = table.Column<Guid>(type: "TEXT", nullable: false),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Thing = table.Column<int>(type: "INTEGER", nullable: false),
                    From = table.Column<string>(type: "TEXT", nullable: false, collation: "NOCASE"),
                    To = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_RenamedNames", x => x.Id);
                    table.ForeignKey(
                        name: "FK_RenamedNames_RenameRuns_RunId",
                        column: x => x.RunId,
                        principalTable: "RenameRuns",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_RenamedNames_ProjectId_From",
                table: "RenamedNames",
                columns: new[] { "ProjectId", "From" });

            migrationBuilder.CreateIndex(
                name: "IX_RenamedNames_RunId",
                table: "RenamedNames",
                column: "RunId");

            migrationBuilder.CreateIndex(
                name: "IX_RenameRuns_ProjectId",
                table: "RenameRuns",
                column: "ProjectId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "RenamedNames");

            migrationBuilder.DropTable(
                name: "RenameRuns");

            migrationBuilder.DropColumn(
                name: "Convention",
                table: "Studio");

            migrationBuilder.DropColumn(
                name: "ConventionBefore",
                table: "Studio");

            migrationBuilder.AddColumn<string>(
                name: "Function",
                table: "Pieces",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.Sql("UPDATE Pieces SET Function = coalesce(json_extract(Slots, '$.function'), ''), Slots = coalesce(json_extract(Slots, '$.subject'), '');");

            migrationBuilder.RenameColumn(
                name: "Slots",
                table: "Pieces",
                newName: "Subject");
        }
    }
}
