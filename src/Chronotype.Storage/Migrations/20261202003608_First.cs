using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chronotype.Storage.Migrations
{
    /// <inheritdoc />
    public partial class First : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "Clients",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Clients", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Codes",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    List = table.Column<string>(type: "TEXT", nullable: false),
                    Code = table.Column<string>(type: "TEXT", nullable: false),
                    Meaning = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Codes", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "ColourProfiles",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false, collation: "NOCASE"),
                    Space = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Size = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    ById = table.Column<Guid>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_ColourProfiles", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Comparisons",
                columns: table => new
                {
                    Before = table.Column<string>(type: "TEXT", nullable: false),
                    After = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    Change = table.Column<double>(type: "REAL", nullable: true),
                    Result = table.Column<string>(type: "TEXT", nullable: false),
                    Digest = table.Column<string>(type: "TEXT", nullable: true)
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
                    Facts = table.Column<string>(type: "TEXT", nullable: false),
                    Measures_Bits = table.Column<int>(type: "INTEGER", nullable: true),
                    Measures_Channels = table.Column<int>(type: "INTEGER", nullable: true),
                    Measures_Colour = table.Column<int>(type: "INTEGER", nullable: true),
                    Measures_Depth = table.Column<int>(type: "INTEGER", nullable: true),
                    Measures_FrameHeight = table.Column<int>(type: "INTEGER", nullable: true),
                    Measures_FrameWidth = table.Column<int>(type: "INTEGER", nullable: true),
                    Measures_FramesPerSecond = table.Column<double>(type: "REAL", nullable: true),
                    Measures_Height = table.Column<int>(type: "INTEGER", nullable: true),
                    Measures_Resolution = table.Column<double>(type: "REAL", nullable: true),
                    Measures_SampleRate = table.Column<int>(type: "INTEGER", nullable: true),
                    Measures_Width = table.Column<int>(type: "INTEGER", nullable: true)
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

            migrationBuilder.CreateTable(
                name: "MirrorQueue",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    TableName = table.Column<string>(type: "TEXT", nullable: false),
                    RowKey = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_MirrorQueue", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Outputs",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    EntryId = table.Column<Guid>(type: "TEXT", nullable: false),
                    PieceId = table.Column<Guid>(type: "TEXT", nullable: false),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Source = table.Column<string>(type: "TEXT", nullable: false),
                    RecipeKey = table.Column<string>(type: "TEXT", nullable: false),
                    Recipe = table.Column<string>(type: "TEXT", nullable: false),
                    Reasons = table.Column<string>(type: "TEXT", nullable: true),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    ById = table.Column<Guid>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Outputs", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "People",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", maxLength: 120, nullable: false),
                    Initials = table.Column<string>(type: "TEXT", maxLength: 4, nullable: false),
                    IsOwner = table.Column<bool>(type: "INTEGER", nullable: false),
                    IsOff = table.Column<bool>(type: "INTEGER", nullable: false),
                    SeesSome = table.Column<bool>(type: "INTEGER", nullable: false),
                    IsReader = table.Column<bool>(type: "INTEGER", nullable: false),
                    JoinedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Theme = table.Column<int>(type: "INTEGER", nullable: false),
                    Dates = table.Column<int>(type: "INTEGER", nullable: false),
                    UserName = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    NormalizedUserName = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    Email = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    NormalizedEmail = table.Column<string>(type: "TEXT", maxLength: 256, nullable: true),
                    EmailConfirmed = table.Column<bool>(type: "INTEGER", nullable: false),
                    PasswordHash = table.Column<string>(type: "TEXT", nullable: true),
                    SecurityStamp = table.Column<string>(type: "TEXT", nullable: true),
                    ConcurrencyStamp = table.Column<string>(type: "TEXT", nullable: true),
                    PhoneNumber = table.Column<string>(type: "TEXT", nullable: true),
                    PhoneNumberConfirmed = table.Column<bool>(type: "INTEGER", nullable: false),
                    TwoFactorEnabled = table.Column<bool>(type: "INTEGER", nullable: false),
                    LockoutEnd = table.Column<long>(type: "INTEGER", nullable: true),
                    LockoutEnabled = table.Column<bool>(type: "INTEGER", nullable: false),
                    AccessFailedCount = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_People", x => x.Id);
                });

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

            migrationBuilder.CreateTable(
                name: "Recipes",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    File = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    ById = table.Column<Guid>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Recipes", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "StoreChecks",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    StartedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Share = table.Column<double>(type: "REAL", nullable: false),
                    BytesRead = table.Column<long>(type: "INTEGER", nullable: false),
                    DamagedPlaces = table.Column<int>(type: "INTEGER", nullable: false),
                    IndexFault = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_StoreChecks", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Studio",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Convention = table.Column<string>(type: "TEXT", nullable: true),
                    ConventionBefore = table.Column<string>(type: "TEXT", nullable: true),
                    LeavesSettingsBehind = table.Column<bool>(type: "INTEGER", nullable: false),
                    Companions = table.Column<string>(type: "TEXT", nullable: true),
                    ReferencePatterns = table.Column<string>(type: "TEXT", nullable: true),
                    Formats = table.Column<string>(type: "TEXT", nullable: true),
                    IsDemo = table.Column<bool>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Studio", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Projects",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Code = table.Column<string>(type: "TEXT", nullable: false, collation: "NOCASE"),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    ClientId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Plan = table.Column<string>(type: "TEXT", nullable: false),
                    PlanFile = table.Column<string>(type: "TEXT", nullable: true),
                    Spec = table.Column<string>(type: "TEXT", nullable: true),
                    Convention = table.Column<string>(type: "TEXT", nullable: false),
                    Keep = table.Column<int>(type: "INTEGER", nullable: false),
                    StartedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    StartedById = table.Column<Guid>(type: "TEXT", nullable: false),
                    PutAwayAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DeletedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DeletedById = table.Column<Guid>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Projects", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Projects_Clients_ClientId",
                        column: x => x.ClientId,
                        principalTable: "Clients",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

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
                name: "PersonClaims",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    UserId = table.Column<Guid>(type: "TEXT", nullable: false),
                    ClaimType = table.Column<string>(type: "TEXT", nullable: true),
                    ClaimValue = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_PersonClaims", x => x.Id);
                    table.ForeignKey(
                        name: "FK_PersonClaims_People_UserId",
                        column: x => x.UserId,
                        principalTable: "People",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "PersonLogins",
                columns: table => new
                {
                    LoginProvider = table.Column<string>(type: "TEXT", nullable: false),
                    ProviderKey = table.Column<string>(type: "TEXT", nullable: false),
                    ProviderDisplayName = table.Column<string>(type: "TEXT", nullable: true),
                    UserId = table.Column<Guid>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_PersonLogins", x => new { x.LoginProvider, x.ProviderKey });
                    table.ForeignKey(
                        name: "FK_PersonLogins_People_UserId",
                        column: x => x.UserId,
                        principalTable: "People",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "PersonTokens",
                columns: table => new
                {
                    UserId = table.Column<Guid>(type: "TEXT", nullable: false),
                    LoginProvider = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Value = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_PersonTokens", x => new { x.UserId, x.LoginProvider, x.Name });
                    table.ForeignKey(
                        name: "FK_PersonTokens_People_UserId",
                        column: x => x.UserId,
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

            migrationBuilder.CreateTable(
                name: "CheckDamage",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    CheckId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    UnreadableBytes = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_CheckDamage", x => x.Id);
                    table.ForeignKey(
                        name: "FK_CheckDamage_StoreChecks_CheckId",
                        column: x => x.CheckId,
                        principalTable: "StoreChecks",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Pieces",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Slots = table.Column<string>(type: "TEXT", nullable: false),
                    CurrentName = table.Column<string>(type: "TEXT", nullable: false, collation: "NOCASE"),
                    Extension = table.Column<string>(type: "TEXT", nullable: false),
                    Keep = table.Column<int>(type: "INTEGER", nullable: true),
                    Expected = table.Column<string>(type: "TEXT", nullable: true),
                    GreatChange = table.Column<double>(type: "REAL", nullable: true),
                    HighestMilestone = table.Column<int>(type: "INTEGER", nullable: false),
                    HighestSequence = table.Column<int>(type: "INTEGER", nullable: false),
                    StartedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    StartedById = table.Column<Guid>(type: "TEXT", nullable: false),
                    FromEntryId = table.Column<Guid>(type: "TEXT", nullable: true),
                    FromSaveId = table.Column<Guid>(type: "TEXT", nullable: true),
                    FromPart = table.Column<string>(type: "TEXT", nullable: true),
                    TemplateSince = table.Column<long>(type: "INTEGER", nullable: true),
                    PutAwayAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DeletedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DeletedById = table.Column<Guid>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Pieces", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Pieces_Projects_ProjectId",
                        column: x => x.ProjectId,
                        principalTable: "Projects",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
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
                name: "RenameRuns",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Cause = table.Column<int>(type: "INTEGER", nullable: false),
                    PieceId = table.Column<Guid>(type: "TEXT", nullable: true),
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
                    DeletedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DeletedById = table.Column<Guid>(type: "TEXT", nullable: true),
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

            migrationBuilder.CreateTable(
                name: "Entries",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    ProjectId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Kind = table.Column<int>(type: "INTEGER", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    PathKey = table.Column<string>(type: "TEXT", nullable: false),
                    FolderKey = table.Column<string>(type: "TEXT", nullable: false),
                    Role = table.Column<int>(type: "INTEGER", nullable: false),
                    Purpose = table.Column<string>(type: "TEXT", nullable: false),
                    CanBeMadeAgain = table.Column<bool>(type: "INTEGER", nullable: false),
                    Order = table.Column<int>(type: "INTEGER", nullable: false),
                    PieceId = table.Column<Guid>(type: "TEXT", nullable: true),
                    LineId = table.Column<Guid>(type: "TEXT", nullable: true),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: true),
                    MilestoneId = table.Column<Guid>(type: "TEXT", nullable: true),
                    IsOfNoVersion = table.Column<bool>(type: "INTEGER", nullable: false),
                    StandsSince = table.Column<long>(type: "INTEGER", nullable: false),
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
                    StartedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    StartedById = table.Column<Guid>(type: "TEXT", nullable: false),
                    DroppedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DroppedById = table.Column<Guid>(type: "TEXT", nullable: true)
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
                    BroughtBackFrom = table.Column<int>(type: "INTEGER", nullable: true),
                    LinkedAt = table.Column<long>(type: "INTEGER", nullable: true)
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

            migrationBuilder.CreateTable(
                name: "Saves",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    PieceId = table.Column<Guid>(type: "TEXT", nullable: false),
                    LineId = table.Column<Guid>(type: "TEXT", nullable: false),
                    IsCurrent = table.Column<bool>(type: "INTEGER", nullable: false),
                    Aside = table.Column<int>(type: "INTEGER", nullable: true),
                    Sequence = table.Column<int>(type: "INTEGER", nullable: false),
                    ArrivedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    ArrivedById = table.Column<Guid>(type: "TEXT", nullable: false),
                    ReceivedName = table.Column<string>(type: "TEXT", nullable: false),
                    Identity = table.Column<string>(type: "TEXT", nullable: false),
                    MainHash = table.Column<string>(type: "TEXT", nullable: false),
                    FaceHash = table.Column<string>(type: "TEXT", nullable: true),
                    Size = table.Column<long>(type: "INTEGER", nullable: false),
                    BaseNumber = table.Column<int>(type: "INTEGER", nullable: true),
                    BroughtBackFrom = table.Column<int>(type: "INTEGER", nullable: true),
                    ArrivalNotice = table.Column<string>(type: "TEXT", nullable: true),
                    EmptyFolders = table.Column<string>(type: "TEXT", nullable: true),
                    NewBytes = table.Column<long>(type: "INTEGER", nullable: true),
                    DiscardedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DiscardedById = table.Column<Guid>(type: "TEXT", nullable: true),
                    Number = table.Column<int>(type: "INTEGER", nullable: true),
                    ExactName = table.Column<string>(type: "TEXT", nullable: true),
                    KeptAt = table.Column<long>(type: "INTEGER", nullable: true),
                    KeptById = table.Column<Guid>(type: "TEXT", nullable: true),
                    Note = table.Column<string>(type: "TEXT", nullable: true),
                    IsLeftLoose = table.Column<bool>(type: "INTEGER", nullable: false),
                    IsMarkDeclined = table.Column<bool>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Saves", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Saves_Lines_LineId",
                        column: x => x.LineId,
                        principalTable: "Lines",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "FK_Saves_Pieces_PieceId",
                        column: x => x.PieceId,
                        principalTable: "Pieces",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "Companions",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: false),
                    EntryId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Tail = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Size = table.Column<long>(type: "INTEGER", nullable: false),
                    CameAt = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Companions", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Companions_Saves_SaveId",
                        column: x => x.SaveId,
                        principalTable: "Saves",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

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

            migrationBuilder.CreateTable(
                name: "Masters",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: false),
                    ExactName = table.Column<string>(type: "TEXT", nullable: false),
                    MarkedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    MarkedById = table.Column<Guid>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Masters", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Masters_Saves_SaveId",
                        column: x => x.SaveId,
                        principalTable: "Saves",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "Milestones",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    Reason = table.Column<string>(type: "TEXT", nullable: false),
                    ExactName = table.Column<string>(type: "TEXT", nullable: false),
                    MarkedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    MarkedById = table.Column<Guid>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Milestones", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Milestones_Saves_SaveId",
                        column: x => x.SaveId,
                        principalTable: "Saves",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "SaveFiles",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    SaveId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Size = table.Column<long>(type: "INTEGER", nullable: false),
                    IsMain = table.Column<bool>(type: "INTEGER", nullable: false),
                    ChangedAt = table.Column<DateTime>(type: "TEXT", nullable: true),
                    LinkedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_SaveFiles", x => x.Id);
                    table.ForeignKey(
                        name: "FK_SaveFiles_Saves_SaveId",
                        column: x => x.SaveId,
                        principalTable: "Saves",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

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

            migrationBuilder.CreateIndex(
                name: "IX_CheckDamage_CheckId",
                table: "CheckDamage",
                column: "CheckId");

            migrationBuilder.CreateIndex(
                name: "IX_Clients_Code",
                table: "Clients",
                column: "Code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Codes_List_Code",
                table: "Codes",
                columns: new[] { "List", "Code" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_ColourProfiles_Hash",
                table: "ColourProfiles",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_ColourProfiles_Name",
                table: "ColourProfiles",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Companions_EntryId",
                table: "Companions",
                column: "EntryId");

            migrationBuilder.CreateIndex(
                name: "IX_Companions_Hash",
                table: "Companions",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_Companions_SaveId_EntryId",
                table: "Companions",
                columns: new[] { "SaveId", "EntryId" },
                unique: true);

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
                name: "IX_Entries_PieceId",
                table: "Entries",
                column: "PieceId");

            migrationBuilder.CreateIndex(
                name: "IX_Entries_ProjectId_FolderKey_Kind",
                table: "Entries",
                columns: new[] { "ProjectId", "FolderKey", "Kind" },
                filter: "\"DeletedAt\" IS NULL");

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
                name: "IX_Faces_Hash",
                table: "Faces",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_Faces_SaveId",
                table: "Faces",
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
                name: "IX_Jobs_Kind_Subject",
                table: "Jobs",
                columns: new[] { "Kind", "Subject" },
                unique: true,
                filter: "\"State\" IN (0, 1)");

            migrationBuilder.CreateIndex(
                name: "IX_Jobs_State_Priority_Id",
                table: "Jobs",
                columns: new[] { "State", "Priority", "Id" });

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
                name: "IX_Masters_SaveId",
                table: "Masters",
                column: "SaveId",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Milestones_SaveId",
                table: "Milestones",
                column: "SaveId",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Outputs_EntryId",
                table: "Outputs",
                column: "EntryId");

            migrationBuilder.CreateIndex(
                name: "IX_Outputs_PieceId",
                table: "Outputs",
                column: "PieceId");

            migrationBuilder.CreateIndex(
                name: "IX_Outputs_SaveId",
                table: "Outputs",
                column: "SaveId");

            migrationBuilder.CreateIndex(
                name: "IX_Outputs_Source",
                table: "Outputs",
                column: "Source");

            migrationBuilder.CreateIndex(
                name: "IX_PastPlaces_EntryId",
                table: "PastPlaces",
                column: "EntryId");

            migrationBuilder.CreateIndex(
                name: "IX_PastPlaces_ProjectId_PathKey",
                table: "PastPlaces",
                columns: new[] { "ProjectId", "PathKey" });

            migrationBuilder.CreateIndex(
                name: "EmailIndex",
                table: "People",
                column: "NormalizedEmail");

            migrationBuilder.CreateIndex(
                name: "IX_People_Initials",
                table: "People",
                column: "Initials",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "UserNameIndex",
                table: "People",
                column: "NormalizedUserName",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_PersonClaims_UserId",
                table: "PersonClaims",
                column: "UserId");

            migrationBuilder.CreateIndex(
                name: "IX_PersonLogins_UserId",
                table: "PersonLogins",
                column: "UserId");

            migrationBuilder.CreateIndex(
                name: "IX_Pieces_FromEntryId",
                table: "Pieces",
                column: "FromEntryId",
                filter: "\"FromEntryId\" IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Pieces_FromSaveId",
                table: "Pieces",
                column: "FromSaveId",
                filter: "\"FromSaveId\" IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Pieces_ProjectId_CurrentName",
                table: "Pieces",
                columns: new[] { "ProjectId", "CurrentName" },
                unique: true,
                filter: "\"DeletedAt\" IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Plans_Key",
                table: "Plans",
                column: "Key",
                unique: true);

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
                name: "IX_Projects_ClientId",
                table: "Projects",
                column: "ClientId");

            migrationBuilder.CreateIndex(
                name: "IX_Projects_Code",
                table: "Projects",
                column: "Code",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Recipes_ProjectId_Key",
                table: "Recipes",
                columns: new[] { "ProjectId", "Key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Recipes_Studio",
                table: "Recipes",
                column: "Key",
                unique: true,
                filter: "\"ProjectId\" IS NULL");

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

            migrationBuilder.CreateIndex(
                name: "IX_SaveFiles_Hash",
                table: "SaveFiles",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_SaveFiles_SaveId",
                table: "SaveFiles",
                column: "SaveId");

            migrationBuilder.CreateIndex(
                name: "IX_Saves_Current",
                table: "Saves",
                column: "PieceId",
                unique: true,
                filter: "\"IsCurrent\"");

            migrationBuilder.CreateIndex(
                name: "IX_Saves_Identity_PieceId",
                table: "Saves",
                columns: new[] { "Identity", "PieceId" });

            migrationBuilder.CreateIndex(
                name: "IX_Saves_LineId_Number",
                table: "Saves",
                columns: new[] { "LineId", "Number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Saves_Loose",
                table: "Saves",
                columns: new[] { "PieceId", "Sequence" },
                filter: "Number IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Saves_PieceId_Sequence",
                table: "Saves",
                columns: new[] { "PieceId", "Sequence" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Sessions_PersonId",
                table: "Sessions",
                column: "PersonId");

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
                unique: true,
                filter: "\"DeletedAt\" IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_SharedProperties_ProjectId_PathKey_Name",
                table: "SharedProperties",
                columns: new[] { "ProjectId", "PathKey", "Name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_StoreChecks_EndedAt",
                table: "StoreChecks",
                column: "EndedAt");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "CheckDamage");

            migrationBuilder.DropTable(
                name: "Codes");

            migrationBuilder.DropTable(
                name: "ColourProfiles");

            migrationBuilder.DropTable(
                name: "Companions");

            migrationBuilder.DropTable(
                name: "Comparisons");

            migrationBuilder.DropTable(
                name: "ContentFacts");

            migrationBuilder.DropTable(
                name: "ConventionDrafts");

            migrationBuilder.DropTable(
                name: "DeviceKeys");

            migrationBuilder.DropTable(
                name: "Faces");

            migrationBuilder.DropTable(
                name: "Jobs");

            migrationBuilder.DropTable(
                name: "Links");

            migrationBuilder.DropTable(
                name: "Masters");

            migrationBuilder.DropTable(
                name: "Milestones");

            migrationBuilder.DropTable(
                name: "MirrorQueue");

            migrationBuilder.DropTable(
                name: "Outputs");

            migrationBuilder.DropTable(
                name: "PastPlaces");

            migrationBuilder.DropTable(
                name: "PersonClaims");

            migrationBuilder.DropTable(
                name: "PersonLogins");

            migrationBuilder.DropTable(
                name: "PersonTokens");

            migrationBuilder.DropTable(
                name: "Plans");

            migrationBuilder.DropTable(
                name: "ProjectAccess");

            migrationBuilder.DropTable(
                name: "Recipes");

            migrationBuilder.DropTable(
                name: "RenamedNames");

            migrationBuilder.DropTable(
                name: "Sessions");

            migrationBuilder.DropTable(
                name: "SharedFiles");

            migrationBuilder.DropTable(
                name: "SharedProperties");

            migrationBuilder.DropTable(
                name: "Studio");

            migrationBuilder.DropTable(
                name: "StoreChecks");

            migrationBuilder.DropTable(
                name: "FileContents");

            migrationBuilder.DropTable(
                name: "SaveFiles");

            migrationBuilder.DropTable(
                name: "RenameRuns");

            migrationBuilder.DropTable(
                name: "People");

            migrationBuilder.DropTable(
                name: "Entries");

            migrationBuilder.DropTable(
                name: "Saves");

            migrationBuilder.DropTable(
                name: "Lines");

            migrationBuilder.DropTable(
                name: "Pieces");

            migrationBuilder.DropTable(
                name: "Projects");

            migrationBuilder.DropTable(
                name: "Clients");
        }
    }
}
