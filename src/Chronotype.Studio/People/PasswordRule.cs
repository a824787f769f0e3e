using System.Text;
using Chronotype.Core.Content;
using Chronotype.Storage.Records;
using Microsoft.AspNetCore.Identity;

namespace Chronotype.Studio.People;

/// <summary>
/// Which passwords are accepted (NIST SP 800-63B, 5.1.1.2): long ones that are not among those that are tried first. No mixture
/// of kinds of characters is asked for.
/// </summary>
public sealed class PasswordRule : IPasswordValidator<Person>
{
    public const int MinLength = 10, MaxLength = 200;

    // What the commonest passwords are made of, before somebody adds digits and marks to them.
    private static readonly HashSet<string> Common = [.. """
        password passwort passwords motdepasse contrasena senha wachtwoord salasana letmein welcome welcomehome willkommen bienvenue
        iloveyou iloveu iloveyouso ilove loveyou lovely loveme princess sunshine football baseball basketball superman batman spiderman starwars
        pokemon dragon monkey shadow master michael jennifer jordan charlie jessica ashley daniel thomas andrew matthew joshua
        qwerty qwertyuiop qwertyui qwert asdfgh asdfghjkl zxcvbn zxcvbnm qazwsx qazwsxedc qwertz qwertzuiop azerty azertyuiop yxcvbnm
        admin administrator root user guest test tester testing default changeme changeit secret secrets login access
        trustno freedom whatever computer internet google facebook hello helloworld helloworlds abcdef abcdefg abcdefgh abcdefghij
        summer winter spring autumn january february december monday friday studio studios design designer creative artist
        chronotype correcthorsebatterystaple nopassword mypassword passpass adminadmin blink blinkblink killer hunter ranger
        """.Split(default(char[]), StringSplitOptions.RemoveEmptyEntries)];

    public Task<IdentityResult> ValidateAsync(UserManager<Person> manager, Person user, string? password) =>
        Task.FromResult(Fault(password ?? "", user) is { } fault ? IdentityResult.Failed(new IdentityError { Code = "Password", Description = fault }) : IdentityResult.Success);

    /// <returns>Why it is not accepted, in a sentence; null where it is.</returns>
    public static string? Fault(string password, Person person)
    {
        if (password.Length < MinLength) return $"A password has at least {MinLength} characters. A few words that only you would put together are easy to keep.";
        if (password.Length > MaxLength) return $"A password has at most {MaxLength} characters.";
        if (password.EnumerateRunes().Any(r => !UnicodeText.IsLegible(r))) return "That password has characters in it that no keyboard gives.";
        if (Unit(password) <= 3) return "That password repeats itself; it would be tried early. Choose another.";
        if (IsRun(password)) return "That password is a row of neighbours; it would be tried early. Choose another.";
        var word = Bare(password);
        if (Common.Contains(word) || (word.Length % 2 == 0 && Common.Contains(word[..(word.Length / 2)]) && word[..(word.Length / 2)] == word[(word.Length / 2)..]))
            return "That is among the passwords that are tried first, also with digits and marks around it. Choose another.";
        var own = Bare(person.Name + person.Initials);
        return word.Length > 0 && (Bare(person.Name) == word || own == word) ? "That password is your name. Choose another." : null;
    }

    // Letters alone, in lower case, with the digits and marks that stand for letters read as these.
    private static string Bare(string text)
    {
        var from = text.ToLowerInvariant().Trim('0', '1', '2', '3', '4', '5', '6', '7', '8', '9', '!', '?', '.', '*', '#', '_', '-', ' ');
        var letters = new StringBuilder();
        foreach (var c in from)
        {
            var letter = c switch { '0' => 'o', '1' => 'i', '3' => 'e', '4' or '@' => 'a', '5' or '$' => 's', '7' => 't', '!' => 'i', _ => c };
            if (char.IsLetter(letter)) letters.Append(letter);
        }
        return letters.ToString();
    }

    // The length of what is repeated to make the whole; the whole's own where nothing is.
    private static int Unit(string text)
    {
        for (var length = 1; length < text.Length; length++)
        {
            var fits = true;
            for (var i = length; i < text.Length && fits; i++) fits = text[i] == text[i - length];
            if (fits) return length;
        }
        return text.Length;
    }

    private static bool IsRun(string text)
    {
        string[] rows = ["01234567890123456789", "abcdefghijklmnopqrstuvwxyz", "qwertyuiopasdfghjklzxcvbnm", "qwertzuiopasdfghjklyxcvbnm"];
        var lower = text.ToLowerInvariant();
        return rows.Any(r => r.Contains(lower) || new string([.. r.Reverse()]).Contains(lower));
    }
}
