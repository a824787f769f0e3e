using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class InsideFiles : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "IsLeftLoose",
                table: "Saves",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "IsMarkDeclined",
                table: "Saves",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "Expected",
                table: "Pieces",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<double>(
                name: "GreatChange",
                table: "Pieces",
                type: "REAL",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Digest",
                table: "Comparisons",
                type: "TEXT",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "IsLeftLoose",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "IsMarkDeclined",
                table: "Saves");

            migrationBuilder.DropColumn(
                name: "Expected",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "GreatChange",
                table: "Pieces");

            migrationBuilder.DropColumn(
                name: "Digest",
                table: "Comparisons");
        }
    }
}
