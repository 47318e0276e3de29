"""Slips: the ways in which people and systems spoil a value."""

import re
from random import Random

from anyascii import anyascii

_NEIGHBOURS = {
    "a": "sqw", "b": "vn", "c": "xv", "d": "sf", "e": "wr", "f": "dg", "g": "fh", "h": "gj", "i": "uo", "j": "hk", "k": "jl", "l": "k",
    "m": "n", "n": "bm", "o": "ip", "p": "o", "q": "wa", "r": "et", "s": "ad", "t": "ry", "u": "yi", "v": "cb", "w": "qe", "x": "zc",
    "y": "tu", "z": "x",
}  # fmt: skip
_SHORT_WORDS = {
    "Street": "St", "Road": "Rd", "Lane": "Ln", "Parade": "Pde", "straße": "str.", "Marine": "Mar.", "Services": "Svcs",
    "Engineering": "Eng.", "Harbour": "Hbr", "Authority": "Auth.", "Limited": "Ltd", "Brothers": "Bros", "and": "&", "Avenue": "Ave",
    "Instruments": "Instr.", "straat": "str.", "avenue": "av.", "gata": "gt.", "Strandgaten": "Strandgt.",
}  # fmt: skip
SHORT_NAMES = {
    "James": "Jim", "Robert": "Bob", "William": "Bill", "Margaret": "Maggie", "Elizabeth": "Liz", "Thomas": "Tom", "Catherine": "Kate",
    "David": "Dave", "Michael": "Mike", "Susan": "Sue", "Andrew": "Andy", "Anthony": "Tony", "Richard": "Dick", "Edward": "Ted",
    "Charles": "Charlie", "Joseph": "Joe", "Christopher": "Chris", "Patricia": "Pat", "Daniel": "Dan", "Matthew": "Matt",
    "Rebecca": "Becky", "Stephen": "Steve", "Nicholas": "Nick", "Victoria": "Vicky", "Alexander": "Alex", "Samuel": "Sam",
    "Deborah": "Debbie", "Timothy": "Tim", "Jennifer": "Jenny", "Patrick": "Paddy", "Willem": "Wim", "Hendrik": "Henk",
    "Johanna": "Hanna", "Heinrich": "Heinz", "Friedrich": "Fritz", "Katharina": "Karin", "Birgitte": "Gitte", "Katarzyna": "Kasia",
    "Małgorzata": "Gosia", "Christian": "Chris", "Frederik": "Fred", "Mary": "Molly", "Matthias": "Matti",
}  # fmt: skip


def typing_slip(text: str, random: Random) -> str:
    """Return the text with one slip in a word of at least four letters: a letter lost, doubled, swapped or mistyped."""
    places = [
        place
        for place in range(1, len(text) - 1)
        if text[place].isalpha() and text[place - 1].isalpha() and text[place + 1].isalpha()
    ]
    if not places:
        return text
    at = random.choice(places)
    kind = random.randrange(4)
    if kind == 0:
        return text[:at] + text[at + 1 :]
    if kind == 1:
        return text[:at] + text[at] + text[at:]
    if kind == 2:
        return text[:at] + text[at + 1] + text[at] + text[at + 2 :]
    letter = text[at].lower()
    wrong = random.choice(_NEIGHBOURS.get(letter, "e"))
    return text[:at] + (wrong.upper() if text[at].isupper() else wrong) + text[at + 1 :]


def digit_slip(text: str, random: Random) -> str:
    """Return the text with one digit changed."""
    places = [place for place, mark in enumerate(text) if mark.isdigit()]
    if not places:
        return text
    at = random.choice(places[1:] or places)
    return text[:at] + str((int(text[at]) + random.randrange(1, 10)) % 10) + text[at + 1 :]


def shorten(text: str, random: Random) -> str:
    """Return the text with one usual abbreviation, if one applies."""
    # Endings of compound words may stand anywhere, other words only as a whole.
    forms = {
        word: re.compile(re.escape(word) if word.startswith("str") else rf"(?<!\w){re.escape(word)}(?!\w)")
        for word in _SHORT_WORDS
    }
    fitting = [word for word, form in forms.items() if form.search(text)]
    if not fitting:
        return text
    word = random.choice(fitting)
    return forms[word].sub(_SHORT_WORDS[word], text, count=1)


def drop_word(text: str, random: Random) -> str:
    """Return the text without one of its later words, if it has at least three."""
    words = text.split()
    if len(words) < 3:
        return text
    del words[random.randrange(1, len(words))]
    return " ".join(word for word in words if word != "&" or words[-1] != "&")


def join_words(text: str, random: Random) -> str:
    """Return the text with two neighbouring words written as one."""
    words = text.split()
    places = [place for place in range(len(words) - 1) if words[place].isalpha() and words[place + 1].isalpha()]
    if not places:
        return text
    at = random.choice(places)
    return " ".join([*words[:at], words[at] + words[at + 1].lower(), *words[at + 2 :]])


def without_marks(text: str) -> str:
    """Return the text with accents written the way tills write them (ø → O, ß → SS)."""
    return str(anyascii(text))


def two_letter_vowels(text: str) -> str:
    """Return the text with German and Scandinavian letters written as two (ü → ue, ø → oe, å → aa)."""
    pairs = {
        "ä": "ae",
        "ö": "oe",
        "ü": "ue",
        "ø": "oe",
        "å": "aa",
        "æ": "ae",
        "Ä": "Ae",
        "Ö": "Oe",
        "Ü": "Ue",
        "Ø": "Oe",
        "Å": "Aa",
        "ß": "ss",
    }
    return "".join(pairs.get(letter, letter) for letter in text)
