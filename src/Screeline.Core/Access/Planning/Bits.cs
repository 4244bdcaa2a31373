using System.Numerics;

namespace Screeline.Core.Access.Planning;

/// <summary>A set of whole numbers from 0 to 255, as a value: what is open, done or left in a search.</summary>
internal readonly record struct Bits(ulong A, ulong B, ulong C, ulong D)
{
    /// <summary>How many different numbers fit.</summary>
    public const int Capacity = 256;

    public bool IsEmpty => (A | B | C | D) == 0;

    public int Count => BitOperations.PopCount(A) + BitOperations.PopCount(B) + BitOperations.PopCount(C) + BitOperations.PopCount(D);

    public static Bits Of(int i) => (i >> 6) switch
    {
        0 => new Bits(1UL << i, 0, 0, 0),
        1 => new Bits(0, 1UL << (i & 63), 0, 0),
        2 => new Bits(0, 0, 1UL << (i & 63), 0),
        _ => new Bits(0, 0, 0, 1UL << (i & 63)),
    };

    public bool Has(int i) => (((i >> 6) switch { 0 => A, 1 => B, 2 => C, _ => D } >> (i & 63)) & 1) != 0;

    public Bits With(int i) => this | Of(i);

    public Bits Without(int i) => Minus(Of(i));

    public Bits Minus(in Bits other) => new(A & ~other.A, B & ~other.B, C & ~other.C, D & ~other.D);

    public bool Holds(Bits other) => ((other.A & ~A) | (other.B & ~B) | (other.C & ~C) | (other.D & ~D)) == 0;

    public bool Meets(in Bits other) => ((A & other.A) | (B & other.B) | (C & other.C) | (D & other.D)) != 0;

    public static Bits operator |(in Bits x, in Bits y) => new(x.A | y.A, x.B | y.B, x.C | y.C, x.D | y.D);

    public static Bits operator &(in Bits x, in Bits y) => new(x.A & y.A, x.B & y.B, x.C & y.C, x.D & y.D);

    public override int GetHashCode()
    {
        var h = A * 0x9E3779B97F4A7C15UL ^ BitOperations.RotateLeft(B * 0xC2B2AE3D27D4EB4FUL, 17) ^ BitOperations.RotateLeft(C * 0x165667B19E3779F9UL, 31) ^ BitOperations.RotateLeft(D * 0x27D4EB2F165667C5UL, 47);
        return (int)(h ^ (h >> 32));
    }

    public Enumerator GetEnumerator() => new(this);

    /// <summary>Goes through the numbers in rising order.</summary>
    public struct Enumerator(Bits bits)
    {
        private ulong _word = bits.A;
        private int _at = 0;

        public int Current { get; private set; } = -1;

        public bool MoveNext()
        {
            while (_word == 0)
            {
                if (++_at > 3)
                {
                    return false;
                }

                _word = _at switch { 1 => bits.B, 2 => bits.C, _ => bits.D };
            }

            Current = (_at << 6) + BitOperations.TrailingZeroCount(_word);
            _word &= _word - 1;
            return true;
        }
    }

    public List<int> ToList()
    {
        var list = new List<int>(Count);
        foreach (var i in this)
        {
            list.Add(i);
        }

        return list;
    }
}
