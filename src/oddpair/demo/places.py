"""Places of the scenario: towns with postcode prefixes, street names and ways of writing addresses by country."""

from dataclasses import dataclass
from random import Random

from .coining import coined_street, coined_town


@dataclass(frozen=True, slots=True)
class Country:
    """A country of the scenario.

    ``towns`` pairs town and postcode prefix; ``postcode`` is a pattern in which ``#`` stands for a digit and ``@`` for a
    letter, after the prefix; ``phone`` is a pattern in a range reserved for fiction where the country has one.
    """

    code: str
    name: str
    weight: int
    towns: tuple[tuple[str, str], ...]
    postcode: str
    streets: tuple[str, ...]
    number_first: bool
    phone: str
    mobile: str
    legal_forms: tuple[str, ...]


def _towns(text: str) -> tuple[tuple[str, str], ...]:
    return tuple(
        (town.strip(), prefix.strip()) for town, _, prefix in (item.partition("=") for item in text.split(","))
    )


def _list(text: str) -> tuple[str, ...]:
    return tuple(item.strip() for item in text.split(","))


COUNTRIES = (
    Country("GB", "United Kingdom", 40,
        _towns("Lowestoft=NR32, Whitby=YO21, Grimsby=DN31, Peterhead=AB42, Oban=PA34, Fleetwood=FY7, Holyhead=LL65, Ipswich=IP3, "
               "Hartlepool=TS24, Arbroath=DD11, Barrow-in-Furness=LA14, Scarborough=YO11, Great Yarmouth=NR30, Stornoway=HS1, "
               "Bangor=BT20, Pwllheli=LL53, Eyemouth=TD14, Wells-next-the-Sea=NR23"),
        " #@@", _list("Harbour Street, Quay Road, Fish Dock Road, Marine Parade, Anchor Lane, Custom House Lane, Ropery Lane, "
        "Lighthouse Road, Tide Mill Lane, Shore Street, Victoria Dock Road, Capstan Close, Bosun Way, North Pier Street, Slipway Lane, "
        "Herring Row, Church Street, Station Road, High Street, Mariners Way"),
        True, "01632 960###", "07700 900###", ("Ltd", "Limited", "Ltd", "LLP", "PLC", "")),
    Country("IE", "Ireland", 10,
        _towns("Howth=D13, Galway=H91, Kinsale=P17, Dingle=V92, Wexford=Y35, Skerries=K34, Westport=F28"), " @#@#",
        _list("Harbour Road, Pier Road, Strand Street, Quay Street, Lighthouse View, Main Street, Sail Loft Lane, Fishmarket Street"),
        True, "091 55####", "085 01#####", ("Ltd", "Limited", "Teoranta", "DAC", "")),
    Country("NO", "Norway", 12,
        _towns("Bergen=50, Stavanger=40, Ålesund=60, Kristiansand=46, Haugesund=55, Bodø=80, Florø=69, Måløy=67"), "##",
        _list("Havnegata, Strandgaten, Sjøgata, Skippergata, Fiskerveien, Bryggeveien, Nordre Kaigate, Torggata, Kirkegata, Naustveien"),
        False, "55 00 ## ##", "999 0# ###", ("AS", "AS", "ASA", "DA", "")),
    Country("DK", "Denmark", 10,
        _towns("Skagen=99, Esbjerg=67, Hirtshals=98, Frederikshavn=99, Thyborøn=76, Svendborg=57, Rønne=37"), "##",
        _list("Havnegade, Strandvej, Toldbodgade, Fiskergade, Nordkajen, Skippergade, Fyrvej, Ankervej, Østergade, Sømandsvej"),
        False, "75 00 ## ##", "31 00 ## ##", ("A/S", "ApS", "ApS", "I/S", "")),
    Country("NL", "Netherlands", 10,
        _towns("Den Helder=178, IJmuiden=197, Vlissingen=438, Urk=832, Harlingen=886, Enkhuizen=160, Stellendam=325"), "# @@",
        _list("Havenstraat, Visserskade, Zeedijk, Scheepmakersdijk, Ankerstraat, Touwslagersweg, Kerkstraat, Vuurtorenweg, Sluisplein, Kade"),
        False, "0223 55####", "06 3009####", ("B.V.", "BV", "N.V.", "V.O.F.", "")),
    Country("DE", "Germany", 9,
        _towns("Bremerhaven=275, Cuxhaven=274, Emden=267, Husum=258, Wilhelmshaven=263, Flensburg=249, Büsum=257"), "##",
        _list("Hafenstraße, Am Fischereihafen, Deichstraße, Ankerweg, Reeperbahnweg, Kaiserdamm, Schifferstraße, Möwenweg, Nordseekai, Werftstraße"),
        False, "0471 990####", "0171 39200##", ("GmbH", "GmbH & Co. KG", "e.K.", "OHG", "KG", "")),
    Country("FR", "France", 4,
        _towns("Dunkerque=591, Boulogne-sur-Mer=622, Brest=292, Concarneau=299, Paimpol=225"), "##",
        _list("rue du Port, quai des Pêcheurs, rue de la Corderie, avenue du Phare, rue des Voiliers, impasse du Bassin"),
        True, "02 61 91 ## ##", "06 39 98 ## ##", ("SARL", "SAS", "S.A.", "EURL", "")),
    Country("PL", "Poland", 4,
        _towns("Gdynia=81, Hel=84, Kołobrzeg=78, Świnoujście=72, Władysławowo=84"), "-###",
        _list("ul. Portowa, ul. Żeglarska, ul. Rybacka, ul. Latarniana, ul. Szkutnicza, ul. Bosmańska"),
        False, "58 500 ## ##", "510 00# ###", ("Sp. z o.o.", "S.A.", "sp.j.", "Sp. z o.o.", "")),
    Country("GR", "Greece", 1, _towns("Piraeus=185, Kavala=654"), " ##", _list("Odos Nikiforou, Akti Themistokleous, Leoforos Salaminos"),
        False, "21 0555 ####", "690 000 ####", ("A.E.", "E.P.E.")),
    Country("JP", "Japan", 1, _towns("Yaizu=425, Hakodate=040"), "-00##", _list("Minato-cho, Nakaminato, Toyokawa-cho"),
        False, "054 555 ####", "090 0000 ####", ("K.K.", "Y.K.")),
)  # fmt: skip

_POSTCODE_LETTERS = "ABDEFGHJLNPQRSTUWXYZ"


def fill(pattern: str, random: Random) -> str:
    """Return the pattern with every ``#`` replaced by a digit and every ``@`` by a letter."""
    return "".join(
        str(random.randrange(10)) if mark == "#" else random.choice(_POSTCODE_LETTERS) if mark == "@" else mark
        for mark in pattern
    )


@dataclass(frozen=True, slots=True)
class Place:
    """A true address."""

    country: Country
    town: str
    postcode: str
    street: str
    number: str
    unit: str

    @property
    def line(self) -> str:
        """Return street and number in the country's order."""
        main = f"{self.number} {self.street}" if self.country.number_first else f"{self.street} {self.number}"
        return f"{self.unit}, {main}" if self.unit else main


def make_place(random: Random, country: Country | None = None, coined: float = 0.0) -> Place:
    """Return a random address, in ``country`` or in any by weight; ``coined`` is the share of coined streets and towns."""
    country = country or random.choices(COUNTRIES, [item.weight for item in COUNTRIES])[0]
    town, prefix = random.choice(country.towns)
    number = str(random.randrange(1, 140)) + (random.choice("abc") if random.random() < 0.08 else "")
    unit = f"Unit {random.randrange(1, 20)}" if country.code in ("GB", "IE") and random.random() < 0.12 else ""
    postcode = prefix + fill(country.postcode, random)
    if country.code == "IE":
        # Eircodes use fewer letters.
        postcode = (
            prefix
            + " "
            + "".join(random.choice("ACDEFHKNPRTVWXY" if place % 2 == 0 else "0123456789") for place in range(4))
        )
    street = random.choice(country.streets)
    if coined and random.random() < coined:
        # A coined town has a postcode area of its own, told by its name.
        town = coined_town(random, country.code)
        area = Random(town)
        postcode = (
            "".join(str(area.randrange(10)) if mark.isdigit() else mark for mark in prefix) + postcode[len(prefix) :]
        )
    if coined and random.random() < coined:
        street = coined_street(random, country.code)
    return Place(country, town, postcode, street, number, unit)
