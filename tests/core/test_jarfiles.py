"""Jars as other programs' files: any delimiter, columns by their headings, play lists that players resolve."""

from __future__ import annotations

import pytest

from cuejar.core.measures.jarfiles import Entry, Track, delimiter, read_jar, write_jar, write_tracks
from cuejar.core.parts.base import BookError


@pytest.mark.parametrize(
    "text",
    [
        "value,weight\nSteam whistle,2\nNight mail,1\n",
        "\ufeffvalue;weight\r\nSteam whistle;2\r\nNight mail;1\r\n",
        "value\tweight\nSteam whistle\t2\nNight mail\t1\n",
        "colour;weight;value\nred;2;Steam whistle\nblue;1;Night mail\n",
        "Steam whistle;2,0\nNight mail;1,0\n",
        '"Steam whistle","2"\n"Night mail","1"\n',
    ],
)
def test_csv_of_any_spreadsheet(text: str) -> None:
    assert read_jar("csv", text) == [("Steam whistle", 2.0, ""), ("Night mail", 1.0, "")]


def test_csv_says_which_line_is_wrong() -> None:
    with pytest.raises(BookError, match="line 3: “much” isn’t a weight"):
        read_jar("csv", "weight;value\n1;Steam whistle\nmuch;Night mail\n")


def test_play_lists_have_lengths_titles_and_paths() -> None:
    text = write_tracks([Track(2.6, "Steam whistle", "media/abc"), Track(0, "Poster", "media/def")])
    assert text.splitlines() == ["#EXTM3U", "#EXTINF:3,Steam whistle", "media/abc", "#EXTINF:-1,Poster", "media/def"]
    assert [entry.value for entry in read_jar("m3u8", text)] == ["media/abc", "media/def"]


def test_names_are_kept_in_palettes_and_tables() -> None:
    palette = "GIMP Palette\nName: Livery\nColumns: 2\n#\n 18  52  86\tExpress blue\n120 40 31 Oxide red\n  1   2   3\n  1   2   4\tUntitled\n"
    entries = read_jar("gpl", palette)
    assert entries == [
        Entry("#123456", 1.0, "Express blue"),
        Entry("#78281f", 1.0, "Oxide red"),
        Entry("#010203"),
        Entry("#010204"),
    ]
    for form in ("gpl", "csv"):
        assert read_jar(form, write_jar(form, "Livery", entries)) == entries
    with pytest.raises(BookError, match="line 3: “not a colour” isn’t a colour"):
        read_jar("gpl", "GIMP Palette\n1 2 3\nnot a colour\n")
    with pytest.raises(BookError, match="line 1: a palette begins"):
        read_jar("gpl", "1 2 3\n")


def test_a_file_of_many_lines_is_refused_before_it_is_read() -> None:
    for form in ("csv", "list", "m3u8"):
        with pytest.raises(BookError, match="more than 20,000 lines"):
            read_jar(form, "tea,1\n" * 20_001)
    assert delimiter('"a;b,\t' * 8_000) in ",;\t"
