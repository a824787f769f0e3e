using System.Text;
using Chronotype.Core.Content;
using Chronotype.Storage.Entities;

namespace Chronotype.Studio.People;

/// <summary>Why a password is not accepted.</summary>
public enum PasswordFault
{
    TooShort,
    TooLong,

    /// <summary>It has characters that no keyboard gives.</summary>
    Illegible,

    /// <summary>It repeats itself.</summary>
    Repeats,

    /// <summary>It is a row of neighbours, in the alphabet or on a keyboard.</summary>
    Row,

    /// <summary>It is among those that are tried first, whatever digits and marks stand around it.</summary>
    Common,

    OwnName,
}

/// <summary>
/// Which passwords are accepted (NIST SP 800-63B, 5.1.1.2): long ones that are not among those that are tried first. No mixture
/// of kinds of characters is asked for.
/// </summary>
public static class PasswordRule
{
    public const int MinLength = 10,
        MaxLength = 200;

    // What the commonest passwords are made of, before somebody adds digits and marks to them.
    private static readonly HashSet<string> Common =
    [
        .. """
            password passwort passwords motdepasse contrasena senha wachtwoord salasana letmein welcome welcomehome willkommen bienvenue
            iloveyou iloveu iloveyouso ilove loveyou lovely loveme princess sunshine football baseball basketball
            superman batman spiderman starwars
            pokemon dragon monkey shadow master michael jennifer jordan charlie jessica ashley daniel thomas andrew matthew joshua
            qwerty qwertyuiop qwertyui qwert asdfgh asdfghjkl zxcvbn zxcvbnm qazwsx qazwsxedc qwertz qwertzuiop azerty azertyuiop yxcvbnm
            admin administrator root user guest test tester testing default changeme changeit secret secrets login access
            trustno freedom whatever computer internet google facebook hello helloworld helloworlds abcdef abcdefg abcdefgh abcdefghij
            summer winter spring autumn january february december monday friday studio studios design designer creative artist
            chronotype correcthorsebatterystaple nopassword mypassword passpass adminadmin blink blinkblink killer hunter ranger
            """.Split(default(char[]), StringSplitOptions.RemoveEmptyEntries),
    ];

    /// <returns>Why it is not accepted; null where it is.</returns>
    public static PasswordFault? Fault(string password, Person person)
    {
        if (password.Length < MinLength)
            return PasswordFault.TooShort;
        if (password.Length > MaxLength)
            return PasswordFault.TooLong;
        if (password.EnumerateRunes().Any(r => !UnicodeText.IsLegible(r)))
            return PasswordFault.Illegible;
        if (Unit(password) <= 3)
            return PasswordFault.Repeats;
        if (IsRun(password))
            return PasswordFault.Row;
        var word = Bare(password);
        if (
            Common.Contains(word)
            || (
                word.Length % 2 == 0 && Common.Contains(word[..(word.Length / 2)]) && word[..(word.Length / 2)] == word[(word.Length / 2)..]
            )
        )
            return PasswordFault.Common;
        var own = Bare(person.Name + person.Initials);
        return word.Length > 0 && (Bare(person.Name) == word || own == word) ? PasswordFault.OwnName : null;
    }

    // Letters alone, in lower case, with the digits and marks that stand for letters read as these.
    private static string Bare(string text)
    {
        var from = text.ToLowerInvariant().Trim('0', '1', '2', '3', '4', '5', '6', '7', '8', '9', '!', '?', '.', '*', '#', '_', '-', ' ');
        var letters = new StringBuilder();
        foreach (var c in from)
        {
            var letter = c switch
            {
                '0' => 'o',
                '1' => 'i',
                '3' => 'e',
                '4' or '@' => 'a',
                '5' or '$' => 's',
                '7' => 't',
                '!' => 'i',
                _ => c,
            };
            if (char.IsLetter(letter))
                letters.Append(letter);
        }
        return letters.ToString();
    }

    // The length of what is repeated to make the whole; the whole's own where nothing is.
    private static int Unit(string text)
    {
        for (var length = 1; length < text.Length; length++)
        {
            var fits = true;
            for (var i = length; i < text.Length && fits; i++)
                fits = text[i] == text[i - length];
            if (fits)
                return length;
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
