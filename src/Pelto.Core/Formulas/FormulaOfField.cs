namespace Pelto.Core.Formulas;

/// <summary>The formula of a field.</summary>
public static class FormulaOfField
{
    extension(Field it)
    {
        /// <summary>The formula that fills it, or null.</summary>
        public Formula? Formula
        {
            get => it.Bound<Formula>();
            internal set => it.Bind(value);
        }
    }
}
