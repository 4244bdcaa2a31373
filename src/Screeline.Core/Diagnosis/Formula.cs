using System.Collections.Frozen;
using System.Globalization;

namespace Screeline.Core.Diagnosis;

/// <summary>Where a formula finds its values: those of this sample, and those of the same sample on a vehicle without a fault.</summary>
/// <param name="Own">Values of this sample, by slot.</param>
/// <param name="Good">Values of the faultless twin, by slot.</param>
public readonly record struct FormulaValues(double[] Own, double[] Good);

/// <summary>Thrown when a formula cannot be read; says where and why.</summary>
public sealed class FormulaException(string message) : Exception(message);

/// <summary>
/// An arithmetic formula of a system's file, compiled to a delegate. Numbers, names, + - * / ^, comparisons (1 or 0),
/// &amp; | ! for and, or, not, brackets, and the functions if(condition, then, else), min, max, abs. Names are resolved once,
/// when it is compiled.
/// </summary>
public sealed class Formula
{
    private readonly Func<FormulaValues, double> _value;

    private Formula(string text, Func<FormulaValues, double> value, double? constant, IReadOnlySet<int> uses, IReadOnlySet<int> usesGood) =>
        (Text, _value, Constant, Uses, UsesGood) = (text, value, constant, uses, usesGood);

    /// <summary>The slots of this sample whose values it needs.</summary>
    public IReadOnlySet<int> Uses { get; }

    /// <summary>The slots of the faultless twin whose values it needs.</summary>
    public IReadOnlySet<int> UsesGood { get; }

    /// <summary>The formula as written.</summary>
    public string Text { get; }

    /// <summary>Its value when it is a plain number, else null.</summary>
    public double? Constant { get; }

    /// <summary>A plain number.</summary>
    public static Formula Of(double number) => new(number.ToString("R", CultureInfo.InvariantCulture), _ => number, number, FrozenSet<int>.Empty, FrozenSet<int>.Empty);

    /// <summary>Its value.</summary>
    public double At(FormulaValues values) => _value(values);

    /// <summary>Reads a formula.</summary>
    /// <param name="text">The formula.</param>
    /// <param name="slot">The slot of a name, or null when the name is unknown. "good.x" asks for x on the faultless twin.</param>
    /// <exception cref="FormulaException">It cannot be read, or a name is unknown.</exception>
    public static Formula Compile(string text, Func<string, int?> slot)
    {
        var reader = new Reader(text, slot);
        var value = reader.Whole();
        return new Formula(text, value, double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) ? number : null, reader.Uses, reader.UsesGood);
    }

    // Recursive descent, loosest binding first.
    private sealed class Reader(string text, Func<string, int?> slot)
    {
        private int _at;

        public HashSet<int> Uses { get; } = [];

        public HashSet<int> UsesGood { get; } = [];

        public Func<FormulaValues, double> Whole()
        {
            var value = Or();
            return Peek() == '\0' ? value : throw Wrong($"“{text[_at..]}” is left over");
        }

        private Func<FormulaValues, double> Or()
        {
            var left = And();
            while (Take('|'))
            {
                var right = And();
                var a = left;
                left = v => a(v) != 0 || right(v) != 0 ? 1 : 0;
            }

            return left;
        }

        private Func<FormulaValues, double> And()
        {
            var left = Compare();
            while (Take('&'))
            {
                var right = Compare();
                var a = left;
                left = v => a(v) != 0 && right(v) != 0 ? 1 : 0;
            }

            return left;
        }

        private Func<FormulaValues, double> Compare()
        {
            var a = Sum();
            if (Take('<'))
            {
                var orEqual = Take('=');
                var b = Sum();
                return orEqual ? v => a(v) <= b(v) ? 1 : 0 : v => a(v) < b(v) ? 1 : 0;
            }

            if (Take('>'))
            {
                var orEqual = Take('=');
                var b = Sum();
                return orEqual ? v => a(v) >= b(v) ? 1 : 0 : v => a(v) > b(v) ? 1 : 0;
            }

            if (Take('='))
            {
                var b = Sum();
                return v => a(v) == b(v) ? 1 : 0;
            }

            return a;
        }

        private Func<FormulaValues, double> Sum()
        {
            var left = Product();
            while (true)
            {
                var a = left;
                if (Take('+'))
                {
                    var b = Product();
                    left = v => a(v) + b(v);
                }
                else if (Take('-'))
                {
                    var b = Product();
                    left = v => a(v) - b(v);
                }
                else
                {
                    return left;
                }
            }
        }

        private Func<FormulaValues, double> Product()
        {
            var left = Sign();
            while (true)
            {
                var a = left;
                if (Take('*'))
                {
                    var b = Sign();
                    left = v => a(v) * b(v);
                }
                else if (Take('/'))
                {
                    var b = Sign();
                    left = v => a(v) / b(v);
                }
                else
                {
                    return left;
                }
            }
        }

        private Func<FormulaValues, double> Sign()
        {
            if (Take('-'))
            {
                var a = Sign();
                return v => -a(v);
            }

            if (Take('!'))
            {
                var a = Sign();
                return v => a(v) == 0 ? 1 : 0;
            }

            var atom = Atom();
            if (Take('^'))
            {
                var (power, exponent) = (atom, Sign());
                return v => Math.Pow(power(v), exponent(v));
            }

            return atom;
        }

        private Func<FormulaValues, double> Atom()
        {
            if (Take('('))
            {
                var inside = Or();
                Expect(')');
                return inside;
            }

            var first = Peek();
            if (char.IsAsciiDigit(first) || first == '.')
            {
                return Number();
            }

            return char.IsAsciiLetter(first) ? NameOrFunction() : throw Wrong(first == '\0' ? "it ends too early" : $"“{first}” is not expected");
        }

        private Func<FormulaValues, double> Number()
        {
            var start = _at;
            while (_at < text.Length && (char.IsAsciiDigit(text[_at]) || text[_at] == '.' || (text[_at] is 'e' or 'E') || (text[_at] is '-' or '+' && text[_at - 1] is 'e' or 'E')))
            {
                _at++;
            }

            return double.TryParse(text[start.._at], NumberStyles.Float, CultureInfo.InvariantCulture, out var number) ? _ => number : throw Wrong($"“{text[start.._at]}” is not a number");
        }

        private Func<FormulaValues, double> NameOrFunction()
        {
            var start = _at;
            while (_at < text.Length && (char.IsAsciiLetterOrDigit(text[_at]) || text[_at] is '_' or '.'))
            {
                _at++;
            }

            var name = text[start.._at];
            if (Take('('))
            {
                List<Func<FormulaValues, double>> arguments = [Or()];
                while (Take(','))
                {
                    arguments.Add(Or());
                }

                Expect(')');
                return (name, arguments) switch
                {
                    ("if", [var c, var a, var b]) => v => c(v) != 0 ? a(v) : b(v),
                    ("min", [var a, var b]) => v => Math.Min(a(v), b(v)),
                    ("max", [var a, var b]) => v => Math.Max(a(v), b(v)),
                    ("abs", [var a]) => v => Math.Abs(a(v)),
                    _ => throw Wrong($"{name} with {arguments.Count} arguments is not known"),
                };
            }

            var good = name.StartsWith("good.", StringComparison.Ordinal);
            var index = slot(good ? name["good.".Length..] : name) ?? throw Wrong($"“{name}” is not known");
            if (good)
            {
                UsesGood.Add(index);
                return v => v.Good[index];
            }

            Uses.Add(index);
            return v => v.Own[index];
        }

        private char Peek()
        {
            while (_at < text.Length && text[_at] == ' ')
            {
                _at++;
            }

            return _at < text.Length ? text[_at] : '\0';
        }

        private bool Take(char c)
        {
            if (Peek() != c)
            {
                return false;
            }

            _at++;
            return true;
        }

        private void Expect(char c)
        {
            if (!Take(c))
            {
                throw Wrong($"“{c}” is missing");
            }
        }

        private FormulaException Wrong(string why) => new($"“{text}”: {why}");
    }
}
