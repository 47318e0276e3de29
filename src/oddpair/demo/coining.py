"""Coined words: names of families, businesses, towns and streets made of syllables, for data larger than the stock of words.

The small demo draws from hand-picked words only. Thousands of firms drawn from them would share names and streets far
more often than firms do, so larger data coin most of their words.
"""

from random import Random

_FAMILY = {
    "GB": ("Ash Bar Bex Cal Carl Dun Eller Far Gar Hal Heb Ing Jes Kel Lang Mars Nether Orm Pick Quar Rams Sel Thorn Ul Var Wens Yar Whit "
           "Hol Brad Crom Ded Ever Fen Grim Hux Ink Kirk Lub Mid Nor Oak Pem Rad Stan Tod Up Wal Win",
           "den wick more worth by ley ton dale ham low stead shaw field combe bridge croft gate man ford hurst row berry side more cote"),
    "IE": ("Bran Car Dev Farr Ger Han Kin Lan Mul Noon Quig Tier Cal Don Fin Gal Hef Kav Lor Mac Raf Scan",
           "igan mody lin elly aghty rahan sella ahy igley ney nan agher erty anagh ery oran"),
    "NO": ("Aas Bak Dal Eid Fjeld Grøn Haug Iver Knut Lund Moen Ny Op Røn Sol Tve Berg Bjør Furu Hov Kvam Lange Myr Nord Rust Skog Sten Vik",
           "land ken strøm stad nevik heim sen mo gård dahl ning rud bø nes by voll set haug"),
    "DK": ("Ander Bjerre Dal El Frand Ga Hol Iver Jesper Kjæ Lyk Morten Nør Sko Bund Dam Fried Grav Hede Kirke Lind Over Ravn Sønder Toft",
           "sen gaard kjær holm by lund bæk borg ager strup"),
    "NL": ("Bak Dek Hoek Jan Kui Mul Post Schip Vis Wier Boer Dijk Groen Hem Kol Lin Noor Oost Rood Sluis Ter Veen Wes Zand",
           "ker stra sma per der ma huis hof stein man beek kamp haar veld"),
    "DE": ("Ahl Brun Claas Detlef Egg Fried Gött Harm Jan Köhl Lüd Möll Peter Rick Wüb Bech Dorn Ehr Falk Grot Hins Krög Lüh Mein Ost Prie",
           "ers sen richs sche ßen mers mann bena ke feld berg ing haus rott lage"),
    "FR": ("Ker Mor Tan Gué Rivo Bel Car Delau Lef Bour Chev Dum Fay Gran Lam Mar Per Rou Sau Vau",
           "brat van guy guen allan lec iou nay èvre geois allier ont ette din bert tin rin sel vier delle"),
    "PL": ("Kowal Nowi Wiśnie Zieliń Jabłoń Kraw Piotr Grab Lewan Wójci Maj Nowa Pawl Rut Sikor Szym Urban Wal Zawad",
           "ski cki wski czyk owski ski ak cki kowski"),
    "GR": ("Papad Georg Nikol Dimit Konstant Vass Theod Anton Christ Lamb", "akis iou aidis opoulos ellis atos iadis"),
    "JP": ("Tana Suzu Wata Saka Mori Yama Naka Kobay Ishi Matsu Fuji", "ka ki nabe moto shita mura yashi kawa da"),
}  # fmt: skip
_SEA_STARTS = (
    "Kest Sku Ful Gan Pet Ter Cur Sand Corm Raz Puf Shear Dot Whim Ei Turn Plov Gui Hal Main Cap Bow Spin Wind Anch Comp Sext "
    "Lee Star Drift Break Fore Head Sker Est Salt Bea Lode Pol Mer Tide Nep Trit Ner Sel Vik Long Cor Ket Slo Dor Lug Clip"
).split()
_SEA_ENDS = (
    "rel mar gull wake pool holm ness sea line crest star wick bird haven strand water light rock fleet mere".split()
)
_STREETS = {
    "GB": "{} Street|{} Road|{} Lane|{} Close|{} Avenue|{} Terrace", "IE": "{} Road|{} Street|{} View|{} Lane",
    "NO": "{}veien|{}gata|{}vegen", "DK": "{}vej|{}gade|{}allé", "NL": "{}straat|{}weg|{}laan|{}kade",
    "DE": "{}straße|{}weg|{}damm|{}allee", "FR": "rue {}|avenue {}|impasse {}", "PL": "ul. {}|al. {}",
    "GR": "Odos {}", "JP": "{}-cho",
}  # fmt: skip
_TOWN_ENDS = {
    "GB": "mouth port ness bay haven pool wick", "IE": "more bay port town", "NO": "vik havn øy sund", "DK": "havn sund borg rup",
    "NL": "dam zijl haven oord", "DE": "haven siel büttel hafen", "FR": "-sur-Mer -Plage -le-Port", "PL": "owo yn ice", "GR": "os ia",
    "JP": "hama minato",
}  # fmt: skip


def coined_family(random: Random, country: str) -> str:
    """Return a family name put together from syllables of the country."""
    starts, ends = _FAMILY[country]
    return random.choice(starts.split()) + random.choice(ends.split())


def coined_word(random: Random) -> str:
    """Return a word of the sea for a business name."""
    return random.choice(_SEA_STARTS) + random.choice(_SEA_ENDS)


def coined_street(random: Random, country: str) -> str:
    """Return the name of a street."""
    return random.choice(_STREETS[country].split("|")).format(coined_family(random, country))


def coined_town(random: Random, country: str) -> str:
    """Return the name of a town."""
    return random.choice(_FAMILY[country][0].split()) + random.choice(_TOWN_ENDS[country].split())
