"""Letters of any language come in as they were written, in whatever encoding, and doubtful ones are told."""

import json
from pathlib import Path

import pytest

from oddpair.core.errors import InputError
from oddpair.files.alphabets import sense
from oddpair.files.encodings import ENCODINGS, MIXED, detect
from oddpair.files.open_table import open_table
from oddpair.files.table import BadRow, Reading, Table

TEXTS = {
    "cp1252 cp850 mac-roman": "Tromsø Fiskeri;Størhaug 3;Ålesund\nBjørn Sæther;Øvre gate 2;Bodø\nFrançois Lefèvre;Fécamp;Köln\n",
    "cp1250 iso8859-2 cp852": "Wędzarnia;ul. Długa 4;Łódź\nSpółka Żeglarska;Gdańsk;Świętochłowice\nDvořák;Žižkov;Plzeň\n",
    "cp1251 koi8-r cp866": "Морской торговец;ул. Мира 3;Мурманск\nИван Петров;Садовая;Архангельск\n",
    "cp1253 iso8859-7": "Ναυτιλιακή Εταιρεία;Οδός 3;Πειραιάς\nΓιώργος;Θεσσαλονίκη;Κρήτη\n",
    "cp1254": "Gümüşsuyu Balıkçılık;Çarşı 3;İstanbul\nÇağlar Şahin;Kadıköy;Beşiktaş\n",
    "cp1257": "Žvejų kooperatyvas;Kęstučio gatvė;Klaipėda\nŠiaulių krantinė;Ąžuolų;Šiauliai\n",
    "cp1255": "חברת השחף;רחוב הים;תל אביב\nדוד כהן;הרצל;חיפה\n",
    "cp1256": "شركة النورس;شارع البحر;القاهرة\nمحمد علي;النيل;الإسكندرية\n",
    "cp932 euc_jp": "山田商店;港区三丁目;東京都\nカモメ船具;中区;横浜市\n",
    "gb18030": "海鸥船具有限公司;朝阳区;北京市\n李明商店;浦东;上海市\n",
    "big5": "海鷗船具有限公司;信義區;臺北市\n王小明商店;左營;高雄市\n",
    "cp949": "갈매기 선구;종로구;서울특별시\n김철수 상점;해운대구;부산광역시\n",
    "utf-16 utf-16-le utf-16-be utf-32 utf-32-le utf-32-be utf-8 utf-8-sig": "Tromsø;海鸥;Łódź\nПетров;Κρήτη;İzmir\n",
}
CASES = [(encoding, text) for names, text in TEXTS.items() for encoding in names.split()]


def written(tmp_path: Path, name: str, content: bytes) -> Path:
    path = tmp_path / name
    path.write_bytes(content)
    return path


def cells(table: Table) -> list[list[str]]:
    rows = list(table.cells())
    assert not any(isinstance(row, BadRow) for row in rows)
    return [row[1] for row in rows if not isinstance(row, BadRow)]


@pytest.mark.parametrize(("encoding", "text"), CASES)
def test_letters_come_in_as_they_were_written(tmp_path: Path, encoding: str, text: str) -> None:
    table = open_table(written(tmp_path, "firms.csv", f"name;street;town\n{text}".encode(encoding)))
    assert cells(table) == [line.split(";") for line in text.splitlines()]
    assert table.columns == ("name", "street", "town")
    assert not table.format.looks_misread


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16", "utf-16-le", "utf-32", "cp1250"])
def test_json_in_any_encoding_is_read(tmp_path: Path, encoding: str) -> None:
    records = [{"name": "Wędzarnia", "town": "Łódź"}, {"name": "Żeglarz", "town": "Gdańsk"}]
    lines = "\n".join(json.dumps(record, ensure_ascii=False) for record in records) + "\n"
    document = json.dumps(records, ensure_ascii=False, indent=1)
    for name, text in (("firms.jsonl", lines), ("firms.json", document)):
        table = open_table(written(tmp_path, name, text.encode(encoding)))
        assert cells(table) == [list(record.values()) for record in records]


def test_a_late_letter_of_another_encoding_is_not_overlooked(tmp_path: Path) -> None:
    content = b"name,town\n" + b"Tern,Oban\n" * 800_000 + "Skua,Tromsø\n".encode("cp1252")
    *_, last = open_table(written(tmp_path, "late.csv", content)).cells()
    assert last == (800_002, ["Skua", "Tromsø"])


def test_two_encodings_row_by_row_are_both_read(tmp_path: Path) -> None:
    rows = [["Bjørn", "Ålesund"], ["Håkon", "Tromsø"], ["Sæther", "Bodø"]] * 4
    lines = [",".join(row).encode("cp1252" if place % 2 else "utf-8") for place, row in enumerate(rows)]
    table = open_table(written(tmp_path, "mixed.csv", b"\n".join([b"name,town", *lines])))
    assert (table.format.encoding, cells(table)) == (MIXED, rows)


def test_a_person_chooses_another_encoding_and_doubtful_letters_are_told(tmp_path: Path) -> None:
    path = written(tmp_path, "odd.csv", "a;b\nTern;\x8d\x8f\x90 \x9d¼±\nEider;×÷¤¦\n".encode("latin-1"))
    table = open_table(path)
    assert table.format.looks_misread
    assert "letters look misread" in table.format.describe()
    assert cells(open_table(path, reading=Reading(encoding="cp850")))[1] == ["Eider", "Î¸ñª"]
    with pytest.raises(InputError, match="there is no encoding 'klingon' to choose"):
        open_table(path, reading=Reading(encoding="klingon"))
    for encoding in ENCODINGS:
        "Tern".encode(encoding.split(",")[0])


def test_sense_is_a_share_and_plain_text_makes_sense() -> None:
    assert sense("Tern Ropes") == 1.0
    assert all(0 <= sense(text.encode("utf-8").decode("latin-1")) < 0.6 for text in TEXTS.values())
    assert detect([b"plain\n"]).name == "utf-8"


CARD_21 = (
    "BEGIN:VCARD\r\nVERSION:2.1\r\nN;CHARSET=ISO-8859-1;ENCODING=QUOTED-PRINTABLE:S=E6ther;Bj=F8rn\r\n"
    "ADR;WORK;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:;;=C3=98vre gate=\r\n 2;Bod=C3=B8;;;\r\nTEL;WORK;VOICE:123\r\nEND:VCARD\r\n"
)


def test_older_cards_and_cards_folded_inside_a_letter_are_read(tmp_path: Path) -> None:
    [row] = open_table(written(tmp_path, "old.vcf", CARD_21.encode())).rows()
    assert not isinstance(row, BadRow)
    assert (row.values["n.family"], row.values["n.given"], row.values["tel.work"]) == ("Sæther", "Bjørn", "123")
    assert (row.values["adr.work.street"], row.values["adr.work.city"]) == ("Øvre gate 2", "Bodø")
    folded = "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Bjø".encode()[:-1] + b"\r\n " + "ørn".encode()[1:] + b"\r\nEND:VCARD\r\n"
    assert cells(open_table(written(tmp_path, "folded.vcf", folded))) == [["Bjørn"]]


@pytest.mark.parametrize("start", ["<!DOCTYPE html><html>", "<?xml version='1.0'?>", "<HTML>"])
def test_a_web_page_is_told_to_be_one(tmp_path: Path, start: str) -> None:
    with pytest.raises(InputError, match="this is a web page or XML"):
        open_table(written(tmp_path, "page.csv", f"{start}\n<table><tr><td>1</td></tr></table>".encode()))


@pytest.mark.parametrize(
    ("text", "columns"),
    [
        ("17,Tern Ropes,Oban\n18,Skua Paint,Ayr\n19,Eider Sails,Oban\n", ("column 1", "column 2", "column 3")),
        ("Tern,info@tern.example\nSkua,a@skua.example\nEider,b@eider.example\n", ("column 1", "column 2")),
        ("Tern Ropes,Oban\nSkua Paint,Oban\nEider Sails,Ayr\n", ("column 1", "column 2")),
        ("id,firm,town\n17,Tern,Oban\n18,Skua,Ayr\n19,Eider,Oban\n", ("id", "firm", "town")),
        ("firm,2019,2020\nTern,yes,no\nSkua,no,no\nEider,no,yes\n", ("firm", "2019", "2020")),
        ("firm,town\nTern,Oban\nSkua,Ayr\nEider,Wick\n", ("firm", "town")),
    ],
)
def test_a_file_without_column_names_is_told_from_its_contents(
    tmp_path: Path, text: str, columns: tuple[str, ...]
) -> None:
    table = open_table(written(tmp_path, "firms.csv", text.encode()))
    assert table.columns == columns
    assert len(cells(table)) == len(text.splitlines()) - (table.format.header_row == 1)
