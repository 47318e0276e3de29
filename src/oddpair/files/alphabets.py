"""The letters beyond ASCII that written languages use: by these a text is told to make sense in an eight-bit encoding."""

import re
from itertools import pairwise

_LANGUAGES = {
    "Norwegian, Danish": "æøåéò", "Swedish, Finnish": "åäöé", "German": "äöüß", "French": "àâçéèêëîïôùûüœæ",
    "Spanish": "áéíóúñü", "Portuguese": "ãõçáéíóúâêôà", "Italian": "àèéìòù", "Dutch": "ëïéèöüá", "Icelandic": "áðéíóúýþæö",
    "Polish": "ąćęłńóśźż", "Czech": "áčďéěíňóřšťúůýž", "Slovak": "áäčďéíĺľňóôŕšťúýž", "Hungarian": "áéíóöőúüű",
    "Romanian": "ăâîșțşţ", "Croatian, Slovene": "čćđšž", "Turkish": "çğıöşüİâî", "Lithuanian": "ąčęėįšųūž",
    "Latvian": "āčēģīķļņšūž", "Estonian": "äõöüšž",
    "Russian": "абвгдежзийклмнопрстуфхцчшщъыьэюяё", "Ukrainian": "абвгґдеєжзиіїйклмнопрстуфхцчшщьюя",
    "Bulgarian": "абвгдежзийклмнопрстуфхцчшщъьюя", "Serbian": "абвгдђежзијклљмнњопрстћуфхцчџш",
    "Greek": "αβγδεζηθικλμνξοπρσςτυφχψωάέήίόύώϊϋΐΰ", "Hebrew": "אבגדהוזחטיךכלםמןנסעףפץצקרשת",
    "Arabic": "ابتثجحخدذرزسشصضطظعغفقكلمنهويءآأؤإئىة",
}  # fmt: skip
ALPHABETS = tuple(frozenset(letters + letters.upper()) for letters in _LANGUAGES.values())
_WORD = re.compile(r"(?:[^\W\d_]|[^\x00-\x7f\s])+")
_QUOTES = "–—‘’‚“”„«»…·´"
#: Letters of which a Cyrillic word has at least one.
_CYRILLIC_VOWELS = frozenset("аеёиоуыэюяіїєАЕЁИОУЫЭЮЯІЇЄ")
_SIGNS = frozenset("°№–—‘’‚“”„«»•…€£§©®™·´¡¿ºª²³½ ")
_MOST_LANGUAGES = 4
#: What each further language of one file takes from the score: few languages are likelier than many.
_FURTHER_LANGUAGE = 0.05


def sense(text: str) -> float:
    """Return how much of a text's words with letters beyond ASCII make sense, from 0 to 1.

    A word does if all such letters belong to one language; the languages that explain most words are counted, and each
    further one takes a little. Letters of two scripts in a word, signs within it, small letters before capitals and Latin
    words nearly without plain letters make none.
    """
    words = [word for word in _WORD.findall(text) if not word.isascii()]
    if not words:
        return 1.0
    known = [(frozenset(c for c in word if ord(c) > 127 and c.isalpha()), word) for word in words if not _is_sign(word)]
    if not known:
        return 0.5
    left = [letters for letters, word in known if _is_well_formed(word)]
    explained, score = 0, 0.0
    for place in range(_MOST_LANGUAGES):
        if not left:
            break
        counts = [sum(letters <= alphabet for letters in left) for alphabet in ALPHABETS]
        best = max(range(len(counts)), key=counts.__getitem__)
        if not counts[best]:
            break
        explained += counts[best]
        left = [letters for letters in left if not letters <= ALPHABETS[best]]
        score = max(score, explained / len(known) - place * _FURTHER_LANGUAGE)
    return score


def _is_sign(word: str) -> bool:
    return all(letter in _SIGNS for letter in word)


def _is_well_formed(word: str) -> bool:
    trimmed = word.strip(_QUOTES)
    if not trimmed.isalpha() and any(
        ord(letter) > 127 and not letter.isalpha() and letter not in "’·" for letter in trimmed
    ):
        return False
    letters = [letter for letter in trimmed if letter.isalpha()]
    beyond = sum(ord(letter) > 127 for letter in letters)
    plain = len(letters) - beyond
    other_script = any(ord(letter) >= 0x370 for letter in letters)
    if other_script and plain:
        return False
    if len(letters) > 2 and "\u0400" <= letters[0] <= "\u04ff" and _CYRILLIC_VOWELS.isdisjoint(letters):
        return False
    if not other_script and len(letters) > 2 and beyond > 0.6 * len(letters):
        return False
    return not any(first.islower() and second.isupper() for first, second in pairwise(letters))
