namespace Kettlefog.Core.Text;

/// <summary>The currencies of ISO 4217, without precious metals, funds and test codes.</summary>
internal static class Currencies
{
    private static readonly HashSet<string> Codes =
    [
        .. (
            "AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BGN BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF "
            + "CHF CLP CNY COP CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ "
            + "GYD HKD HNL HTG HUF IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP "
            + "LKR LRD LSL LYD MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD OMR "
            + "PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB RWF SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC "
            + "SYP SZL THB TJS TMT TND TOP TRY TTD TWD TZS UAH UGX USD UYU UZS VED VES VND VUV WST XAF XCD XCG XOF "
            + "XPF YER ZAR ZMW ZWG"
        ).Split(' '),
    ];

    /// <summary>True for three capitals that are a currency of today.</summary>
    public static bool IsCode(string text) => Codes.Contains(text);
}
