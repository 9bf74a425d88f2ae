namespace Kettlefog.Demo;

/// <summary>The invented names of the demo world.</summary>
internal static class Words
{
    public static readonly string[] FirstNames =
    [
        "Gannet",
        "Tern",
        "Brackwater",
        "Oystergate",
        "Kittiwake",
        "Curlew",
        "Saltgrass",
        "Petrel",
        "Skerry",
        "Marram",
        "Eelgrass",
        "Samphire",
        "Driftwood",
        "Lanternfish",
        "Fulmar",
        "Turnstone",
        "Whimbrel",
        "Bladderwrack",
        "Cormorant",
        "Sandpiper",
        "Kelpie",
        "Dunlin",
        "Avocet",
        "Greywater",
        "Pellin",
        "Harrowby",
        "Oskarssen",
        "Håkonsen",
        "Møller-Strand",
        "O'Dunnagh",
        "Van der Plaat",
        "Thistlewick",
        "Quillfeather",
        "Marlowe-Finch",
        "Ebbtide",
        "Foulness",
        "Nettlecombe",
        "Wrackline",
        "Spindrift",
        "Tidewell",
    ];

    public static readonly (string Category, string[] Trades)[] Trades =
    [
        ("chandler", ["Chandlery", "Ship Stores", "Deck Supplies"]),
        ("fuel", ["Marine Fuels", "Bunkering", "Diesel Supply"]),
        ("rigger", ["Rigging", "Mast & Rigging", "Wire Works"]),
        ("dredging", ["Dredging", "Harbour Works", "Piling"]),
        ("electrics", ["Marine Electrics", "Navigation Lights", "Instruments"]),
        ("sailmaker", ["Sailmakers", "Canvas & Covers", "Sail Loft"]),
        ("timber", ["Boat Timber", "Oak & Larch", "Sawmill"]),
        ("paint", ["Antifouling", "Marine Coatings", "Varnish Works"]),
        ("waste", ["Waste Reception", "Bilge Disposal", "Skip Hire"]),
        ("office", ["Office Supplies", "Printing House", "Stationers"]),
    ];

    public static readonly (string Form, string[] Variants)[] LegalForms =
    [
        ("Ltd", ["Limited", "Ltd.", ""]),
        ("Limited", ["Ltd", "Ltd.", ""]),
        ("& Daughters", ["and Daughters", "& Dtrs"]),
        ("AS", ["A/S", ""]),
        ("B.V.", ["BV", ""]),
        ("Co-operative", ["Coop", "Co-op"]),
        ("", ["Ltd", "Co."]),
    ];

    public static readonly (string City, string Postcode, string Country)[] Places =
    [
        ("Saltmarrow", "SM1", "GB"),
        ("Brackwater", "SM4", "GB"),
        ("Ternhaven", "TH2", "GB"),
        ("Oystergate", "OY7", "GB"),
        ("Pellin Quay", "PQ3", "GB"),
        ("Gannet Ness", "GN1", "GB"),
        ("Skerry Bridge", "SB9", "IE"),
        ("Nordhamn", "4409", "NO"),
        ("Zuiderplaat", "3391", "NL"),
    ];

    public static readonly (string Full, string Short)[] Streets =
    [
        ("Fish Street", "Fish St"),
        ("Quayside Road", "Quayside Rd"),
        ("Ropewalk Lane", "Ropewalk Ln"),
        ("Old Customs Row", "Old Customs Row"),
        ("Lighthouse Avenue", "Lighthouse Ave"),
        ("Slipway Road", "Slipway Rd"),
        ("Herring Court", "Herring Ct"),
        ("Anchor Square", "Anchor Sq"),
        ("Net Loft Yard", "Net Loft Yd"),
    ];

    public static readonly string[] People =
    [
        "Maud Tilling",
        "Ivo Brandt",
        "Sefa Aldous",
        "Corin Weeks",
        "Petra Nilsdatter",
        "Joss Farrow",
        "Anneke Duin",
        "Bram Holt",
        "Nessa Quill",
        "Odd Larsen",
        "Wilma Peake",
        "Tobin Ashe",
        "Rhoda Fenn",
        "Kester Gaunt",
        "Liesl Maar",
        "Hob Trewin",
    ];

    public static readonly string[] Clerks = ["m.tilling", "c.weeks", "n.quill", "h.trewin"];

    public static readonly string[] Sources = ["clerk", "import 2021", "bank feed", "web form"];

    public static readonly string[] Notes =
    [
        "Prefers bills by e-mail.",
        "Delivers to the north gate only.",
        "New bank details confirmed by phone.",
        "Asked for a copy of the last three orders.",
        "Complaint about late payment, settled.",
        "Price list for next season received.",
        "Holds the key to shed 4.",
        "Closed between the tides of spring and neap.",
    ];

    public static readonly string[] Tasks =
    [
        "Call about the open balance",
        "Check the insurance certificate",
        "Ask for the new price list",
        "Agree the delivery window",
        "Renew the frame contract",
        "Confirm bank details",
    ];

    public static readonly string[] Goods =
    [
        "Galvanised shackles",
        "Polypropylene rope, 12 mm",
        "Marine diesel",
        "Navigation light bulbs",
        "Fender covers",
        "Larch planks",
        "Antifouling paint, 5 l",
        "Skip, 6 cubic metres",
        "Letterhead paper",
        "Stainless rigging wire",
    ];
}
