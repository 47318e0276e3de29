"""Words out of which names are made up: businesses by country, given and family names, boats."""

from random import Random

from .coining import coined_family, coined_word

_SEA_WORDS = (
    "Kestrel|Skua|Fulmar|Gannet|Petrel|Tern|Curlew|Sandpiper|Cormorant|Razorbill|Puffin|Shearwater|Dotterel|"
    "Whimbrel|Eider|Turnstone|Plover|Guillemot|Halyard|Mainsail|Capstan|Bowline|Spinnaker|Windlass|Anchor|Compass|"
    "Sextant|Leeward|Windward|Starboard|Spindrift|Breakwater|Foreshore|Headland|Skerry|Estuary|Saltmarsh|Driftwood|"
    "Beacon|Lodestar|Polaris|Meridian|Tideway|Neptune|Triton|Nereid|Selkie|Viking|Longship|Coracle|Ketch|Sloop|"
    "Schooner|Dory|Lugger|Clipper"
).split("|")
_TRADES = {
    "GB": "Marine Services|Boatyard|Sailing School|Fish Farms|Rope Works|Sail Lofts|Yacht Club|Chandlers|Boat Builders|Marine Engineering|"
          "Harbour Authority|Charts & Instruments|Marine Paints|Fishing Co-operative|Yacht Charter|Diving Services|Shipwrights|Towage",
    "NO": "Fiskeoppdrett|Båtbyggeri|Seilskole|Marina|Skipsservice|Rederi|Tauverk|Havbruk|Slipp|Båtutstyr",
    "DK": "Bådeværft|Sejlskole|Fiskeri|Skibsservice|Tovværk|Marina|Havneservice|Skibsproviantering|Sejlmageri",
    "NL": "Scheepswerf|Zeilschool|Jachthaven|Visserij|Touwslagerij|Scheepsservice|Zeilmakerij|Watersport",
    "DE": "Bootswerft|Segelschule|Fischerei|Schiffsausrüster|Seilerei|Yachtservice|Segelmacherei|Reederei",
    "FR": "Chantier Naval|École de Voile|Pêcheries|Corderie|Voilerie|Accastillage",
    "PL": "Stocznia Jachtowa|Szkoła Żeglarska|Rybołówstwo|Żaglownia|Serwis Jachtowy",
    "GR": "Naftiliaki|Alieia", "JP": "Suisan|Senpaku",
}  # fmt: skip
_SUPPLY_TRADES = {
    "GB": "Rope Walk|Sail Loft|Marine Paints|Instruments|Cordage|Bronze Foundry|Engine Spares|Chart Agents|Oilskins|Varnish Works",
    "NO": "Tauverkfabrikk|Seilmakeri|Maling|Instrument", "DK": "Reberbane|Sejlmageri|Farver|Instrumenter",
    "NL": "Touwfabriek|Zeilmakerij|Verf|Instrumenten", "DE": "Tauwerk|Segeltuch|Lacke|Instrumente", "FR": "Corderie|Voilerie|Peintures",
    "PL": "Powroźnia|Farby|Przyrządy", "GR": "Schoinia", "JP": "Seiko",
}  # fmt: skip
_FAMILY = {
    "GB": "Ashdown Barwick Calder Dunmore Elsworth Farrow Garside Hebden Inglis Jessop Kirkby Langdale Marsden Netherby Ormston "
          "Pickering Quayle Ramsden Selby Thornley Ullock Varley Wensley Yarrow Brough Coverdale Denholm Fenwick Gilchrist Halliday "
          "Mackay Macrae Sinclair Drummond Pryce Llewellyn Parry Beddoes Tranter Winstanley",
    "IE": "O'Malley Brannigan Carmody Devlin Farrelly Geraghty Hanrahan Kinsella Lanigan Mulcahy Noonan O'Rahilly Quigley Tierney",
    "NO": "Aasland Bakke Dahlström Eide Fjeldstad Grønnevik Haugland Iversen Knutsen Lunde Moen Nygård Opsahl Rønning Solheim Tveit",
    "DK": "Andersen Bjerregaard Christensen Dalgaard Elkjær Frandsen Gade Holm Iversen Jespersen Kjær Lykke Mortensen Nørgaard Skov",
    "NL": "van der Meer|de Vries|Bakker|Dekker|ten Brink|van den Berg|Hoekstra|Jansma|Kuiper|Mulder|Postma|Schipper|Visser|Wiersma",
    "DE": "Ahlers Bruns Claasen Detlefsen Eggers Friedrichs Göttsche Harms Janßen Köhler Lüders Möller Petersen Rickmers Wübbena",
    "FR": "Le Goff|Kerbrat|Morvan|Tanguy|Guéguen|Rivoallan|Bellec|Cariou|Delaunay|Lefèvre",
    "PL": "Kowalski Nowicki Wiśniewski Zieliński Jabłoński Krawczyk Piotrowski Grabowski", "GR": "Papadakis Georgiou Nikolaidis",
    "JP": "Tanaka Suzuki Watanabe",
}  # fmt: skip
_GIVEN = {
    "GB": "James Robert William Margaret Elizabeth Thomas Catherine David Michael Susan Andrew Anthony Richard Helen Edward Charles "
          "Joseph Christopher Patricia Daniel Matthew Rebecca Stephen Nicholas Victoria Alexander Samuel Deborah Timothy Jennifer",
    "IE": "Patrick Sean Siobhan Michael Thomas Catherine Mary Joseph Daniel Sinead Eoin Margaret",
    "NO": "Lars Ingrid Ole Kari Anders Marit Sigurd Astrid Henrik Solveig Knut Johanne",
    "DK": "Niels Mette Jens Kirsten Søren Birgitte Peder Hanne Christian Lise Frederik Anne",
    "NL": "Willem Johanna Pieter Maria Hendrik Cornelia Jan Elisabeth Klaas Margriet Dirk Anna",
    "DE": "Johann Elisabeth Heinrich Katharina Wilhelm Margarethe Friedrich Anna Jürgen Ursula Matthias Christine",
    "FR": "Jean Marie Pierre Catherine Yves Françoise Guillaume Hélène", "PL": "Jan Katarzyna Piotr Małgorzata Tomasz Anna Stanisław Zofia",
    "GR": "Georgios Eleni Nikolaos Maria", "JP": "Kenji Yuko Hiroshi Akiko",
}  # fmt: skip
_BOATS = (
    "Grey Gull|Sea Otter|Morning Tide|Second Wind|Blue Heron|Salt Wife|Wandering Star|Silver Darling|Nordlys|"
    "Havfrue|Zeemeeuw|Windsbraut|Petite Mouette|Lucky Herring|Old Faithful|Kittiwake Belle|North Star|Fair Isle|"
    "Thistledown|Merry Dancer|Quiet Corner|Sula|Black Pearl Button|Polar Tern|Ebb and Flow|Tystie|Far Horizon|"
    "Mary Ellen|Bonny Lass|Patience|Endeavour Again|Gannet's Folly"
).split("|")


def _words(text: str) -> list[str]:
    return text.split("|") if "|" in text else text.split()


def family_name(random: Random, country: str, coined: float = 0.0) -> str:
    """Return a family name of the country; ``coined`` is the share of names put together from syllables."""
    if coined and random.random() < coined:
        return coined_family(random, country)
    return random.choice(_words(_FAMILY[country]))


def given_name(random: Random, country: str) -> str:
    """Return a given name of the country."""
    return random.choice(_words(_GIVEN[country]))


def boat_name(random: Random) -> str:
    """Return the name of a boat."""
    name = random.choice(_BOATS)
    return f"{name} {random.choice(['II', 'III', 'of Skagen', 'of Howth'])}" if random.random() < 0.3 else name


def business_name(random: Random, country: str, town: str, suppliers: bool, coined: float = 0.0) -> str:
    """Return a made-up business name without its legal form."""
    trades = _SUPPLY_TRADES if suppliers else _TRADES
    trade = random.choice(trades.get(country, trades["GB"]).split("|"))
    pattern = random.random()
    sea = coined_word(random) if coined and random.random() < coined else random.choice(_SEA_WORDS)
    if pattern < 0.42:
        return f"{sea} {trade}"
    if pattern < 0.66:
        return f"{family_name(random, country, coined)} {trade}"
    if pattern < 0.78:
        endings = {
            "GB": "& Sons",
            "IE": "& Sons",
            "DE": "& Söhne",
            "NL": "& Zonen",
            "FR": "& Fils",
            "NO": "& Sønner",
            "DK": "& Sønner",
        }
        return f"{family_name(random, country, coined)} {endings.get(country, '& Co')} {trade}"
    if pattern < 0.9:
        return f"{town} {sea} {trade}"
    return f"{sea} {random.choice(_SEA_WORDS)} {trade}"
