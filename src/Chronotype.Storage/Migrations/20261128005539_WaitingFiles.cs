using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class WaitingFiles : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_SharedFiles_ProjectId_PathKey",
                table: "SharedFiles");

            migrationBuilder.AddColumn<long>(
                name: "DeletedAt",
                table: "SharedFiles",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "DeletedById",
                table: "SharedFiles",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateIndex(
                name: "IX_SharedFiles_ProjectId_PathKey",
                table: "SharedFiles",
                columns: new[] { "ProjectId", "PathKey" },
                unique: true,
                filter: "\"DeletedAt\" IS NULL");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_SharedFiles_ProjectId_PathKey",
                table: "SharedFiles");

            migrationBuilder.DropColumn(
                name: "DeletedAt",
                table: "SharedFiles");

            migrationBuilder.DropColumn(
                name: "DeletedById",
                table: "SharedFiles");

            migrationBuilder.CreateIndex(
                name: "IX_SharedFiles_ProjectId_PathKey",
                table: "SharedFiles",
                columns: new[] { "ProjectId", "PathKey" },
                unique: true);
        }
    }
}
