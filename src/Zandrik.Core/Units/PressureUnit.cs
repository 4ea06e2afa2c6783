using System.Text.Json.Serialization;

namespace Zandrik.Core.Units;

/// <summary>The units a pressure gauge in a workshop reads.</summary>
public enum PressureUnit
{
    /// <summary>Pounds-force per square inch, <c>psi</c>.</summary>
    [JsonStringEnumMemberName("psi")] Psi,

    /// <summary>Bar, <c>bar</c>: 100 kPa.</summary>
    [JsonStringEnumMemberName("bar")] Bar,

    /// <summary>Kilopascal, <c>kPa</c>.</summary>
    [JsonStringEnumMemberName("kPa")] KPa,

    /// <summary>Kilogram-force per square centimetre, <c>kgf/cm2</c>: 98.0665 kPa.</summary>
    [JsonStringEnumMemberName("kgf/cm2")] KgfPerCm2,
}
