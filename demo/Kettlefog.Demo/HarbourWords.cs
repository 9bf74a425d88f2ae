namespace Kettlefog.Demo;

/// <summary>The names of people, vessels and places of the harbour.</summary>
internal static class HarbourWords
{
    public static readonly string[] Given =
    [
        "Maud",
        "Ivo",
        "Sefa",
        "Corin",
        "Petra",
        "Joss",
        "Anneke",
        "Bram",
        "Nessa",
        "Odd",
        "Wilma",
        "Tobin",
        "Rhoda",
        "Kester",
        "Liesl",
        "Hob",
        "Margaret",
        "Robert",
        "Elizabeth",
        "William",
        "Katherine",
        "Thomas",
        "Edward",
        "Susan",
        "Daniel",
        "Zoë",
        "Søren",
        "René",
    ];
    public static readonly string[] Short =
    [
        "Maudie",
        "Ivo",
        "Sefa",
        "Corin",
        "Petra",
        "Joss",
        "Anne",
        "Bram",
        "Vanessa",
        "Odd",
        "Mina",
        "Toby",
        "Rhoda",
        "Kes",
        "Liesl",
        "Hob",
        "Peggy",
        "Bob",
        "Liz",
        "Bill",
        "Kate",
        "Tom",
        "Ted",
        "Sue",
        "Danny",
        "Zoe",
        "Soren",
        "Rene",
    ];
    public static readonly string[] Boats =
    [
        "Petrel",
        "Sea Thrift",
        "Curlew",
        "Marram Lass",
        "Tern of Saltmarrow",
        "Slack Tide",
        "Brine & Barley",
        "Wrackline",
        "Kittiwake II",
        "Second Wind",
        "Old Oyster",
        "Lantern",
        "Dunlin",
        "Spindrift",
        "Ebb and Flo",
    ];
    public static readonly string[] Builders =
    [
        "Skerry Yard",
        "Oskarssen",
        "Pellin Boats",
        "Ternhaven Marine",
        "Nordhamn Verft",
    ];
    public static readonly string[] Trusts =
    [
        "Sailing Club",
        "Charter",
        "Fishing Company",
        "Sea School",
        "Ferries",
        "Boat Share",
        "Diving",
        "Pilots",
    ];
    public static readonly string[] Piers = ["North Pier", "Fish Quay", "Yacht Basin"];
}
