using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class FactsAndJobs : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "MeasuredChanges");

            migrationBuilder.DropColumn(
                name: "Change",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "ChangeState",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "Format",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "Inside",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "Problem",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "Reading",
                table: "Saves");

            // How a save arrived was told in a sentence; it is told by a code now.
            migrationBuilder.Sql(
                """
                UPDATE "Saves" SET "ArrivalNotice" = CASE
                    WHEN "ArrivalNotice" LIKE '%has a link in it%' THEN '{"code":"zipHasLink"}'
                    WHEN "ArrivalNotice" LIKE '%locked with a password%' THEN '{"code":"zipLocked"}'
                    WHEN "ArrivalNotice" LIKE '%under the name of a folder%' THEN '{"code":"zipFolderWithBytes"}'
                    WHEN "ArrivalNotice" LIKE '%two files called%' THEN '{"code":"zipNameTwice"}'
                    WHEN "ArrivalNotice" LIKE '%no files in it%' THEN '{"code":"zipEmpty"}'
                    WHEN "ArrivalNotice" LIKE '%more than 20,000 files%' THEN '{"code":"zipTooManyFiles","number":20000}'
                    WHEN "ArrivalNotice" LIKE '%far more than its size%' THEN '{"code":"zipBomb"}'
                    WHEN "ArrivalNotice" LIKE '%cut short or damaged%' THEN '{}'
                    ELSE '{"code":"zipPathRefused"}' END
                WHERE "ArrivalNotice" IS NOT NULL
                """);

            migrationBuilder.CreateTable(
                name: "Comparisons",
                columns: table => new
                {
                    Before = table.Column<string>(type: "TEXT", nullable: false),
                    After = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    Change = table.Column<double>(type: "REAL", nullable: true),
                    Result = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Comparisons", x => new { x.After, x.Before });
                });

            migrationBuilder.CreateTable(
                name: "ContentFacts",
                columns: table => new
                {
                    Content = table.Column<string>(type: "TEXT", nullable: false),
                    Reader = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    State = table.Column<int>(type: "INTEGER", nullable: false),
                    Format = table.Column<int>(type: "INTEGER", nullable: false),
                    Inside = table.Column<string>(type: "TEXT", nullable: true),
                    Facts = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_ContentFacts", x => new { x.Content, x.Reader });
                });

            migrationBuilder.CreateTable(
                name: "Jobs",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Kind = table.Column<int>(type: "INTEGER", nullable: false),
                    Subject = table.Column<string>(type: "TEXT", nullable: false),
                    Lane = table.Column<string>(type: "TEXT", nullable: false),
                    State = table.Column<int>(type: "INTEGER", nullable: false),
                    Priority = table.Column<int>(type: "INTEGER", nullable: false),
                    IsNeeded = table.Column<bool>(type: "INTEGER", nullable: false),
                    Done = table.Column<long>(type: "INTEGER", nullable: false),
                    Total = table.Column<long>(type: "INTEGER", nullable: false),
                    Tries = table.Column<int>(type: "INTEGER", nullable: false),
                    NotBefore = table.Column<long>(type: "INTEGER", nullable: false),
                    Error = table.Column<int>(type: "INTEGER", nullable: false),
                    ErrorDetail = table.Column<string>(type: "TEXT", nullable: true),
                    AskedById = table.Column<Guid>(type: "TEXT", nullable: true),
                    AskedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    StartedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Result = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Jobs", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Jobs_Kind_Subject",
                table: "Jobs",
                columns: new[] { "Kind", "Subject" },
                unique: true,
                filter: "\"State\" IN (0, 1)");

            migrationBuilder.CreateIndex(
                name: "IX_Jobs_State_Priority_Id",
                table: "Jobs",
                columns: new[] { "State", "Priority", "Id" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Comparisons");

            migrationBuilder.DropTable(
                name: "ContentFacts");

            migrationBuilder.DropTable(
                name: "Jobs");

            migrationBuilder.AddColumn<double>(
                name: "Change",
                table: "Saves",
                type: "REAL",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "ChangeState",
                table: "Saves",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<int>(
                name: "Format",
                table: "Saves",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<string>(
                name: "Inside",
                table: "Saves",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Problem",
                table: "Saves",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Reading",
                table: "Saves",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "MeasuredChanges",
                columns: table => new
                {
                    Before = table.Column<string>(type: "TEXT", nullable: false),
                    After = table.Column<string>(type: "TEXT", nullable: false),
                    Result = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_MeasuredChanges", x => new { x.Before, x.After });
                });
        }
    }
}
