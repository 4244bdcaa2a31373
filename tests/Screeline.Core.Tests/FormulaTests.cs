using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Diagnosis;

namespace Screeline.Core.Tests;

/// <summary>Formulas of the systems' files.</summary>
public sealed class FormulaTests
{
    private static double At(string text) => Formula.Compile(text, Slot).At(new FormulaValues([2, 3, 0], [20, 30, 0]));

    private static int? Slot(string name) => name switch { "a" => 0, "b" => 1, "zero" => 2, _ => null };

    [Theory]
    [InlineData("1 + 2 * 3", 7)]
    [InlineData("(1 + 2) * 3", 9)]
    [InlineData("2 ^ 3 ^ 1", 8)]
    [InlineData("-2 ^ 2", -4)]
    [InlineData("8 / 2 / 2", 2)]
    [InlineData("7 - 2 - 1", 4)]
    [InlineData("a * b - good.a", -14)]
    [InlineData("a < b & b < 4", 1)]
    [InlineData("a > b | zero", 0)]
    [InlineData("!zero", 1)]
    [InlineData("!(a = 2)", 0)]
    [InlineData("a >= 2 & b <= 3", 1)]
    [InlineData("if(a > b, 5, 6)", 6)]
    [InlineData("max(a, min(b, 10)) + abs(-1)", 4)]
    [InlineData("1e-3 * 1E3", 1)]
    [InlineData(".5", 0.5)]
    public void Are_worked_out_as_on_paper(string text, double value) => Assert.Equal(value, At(text), 12);

    [Theory]
    [InlineData("", "ends too early")]
    [InlineData("1 +", "ends too early")]
    [InlineData("(1", "“)” is missing")]
    [InlineData("1 2", "left over")]
    [InlineData("c", "“c” is not known")]
    [InlineData("good.c", "is not known")]
    [InlineData("sin(1)", "sin with 1 arguments is not known")]
    [InlineData("1..2", "not a number")]
    [InlineData("1 # 2", "left over")]
    public void Tell_what_is_wrong_with_them(string text, string why) => Assert.Contains(why, Assert.Throws<FormulaException>(() => At(text)).Message, StringComparison.Ordinal);

    [Property]
    public void Sums_and_products_agree_with_arithmetic(DoNotSize<int> x, DoNotSize<int> y)
    {
        var (a, b) = (x.Item % 10_000, y.Item % 10_000);
        Assert.Equal((double)a + b, At($"({a}) + ({b})"));
        Assert.Equal((double)a * b - a, At($"({a}) * ({b}) - ({a})"));
    }
}
