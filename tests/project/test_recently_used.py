"""The desktop's list of files that were used."""

import threading
from datetime import UTC, datetime
from pathlib import Path

import pytest
from lxml import etree

from rhabdos.project import recently_used
from rhabdos.project.recently_used import FILE, note_opened, with_file

NOW = datetime(2026, 11, 29, 12, 0, tzinfo=UTC)
_OTHERS = b"""<?xml version="1.0" encoding="UTF-8"?>
<xbel version="1.0"
      xmlns:bookmark="http://www.freedesktop.org/standards/desktop-bookmarks"
      xmlns:mime="http://www.freedesktop.org/standards/shared-mime-info">
  <bookmark href="file:///x/a%20b.csv" added="2020-01-01T00:00:00Z" modified="2020-01-01T00:00:00Z" visited="2020-01-01T00:00:00Z">
    <title>Kept</title>
    <info>
      <metadata owner="http://freedesktop.org">
        <mime:mime-type type="text/x-special"/>
        <bookmark:applications>
          <bookmark:application name="Other" exec="&apos;other %u&apos;" modified="2020-01-01T00:00:00Z" count="7"/>
        </bookmark:applications>
        <bookmark:icon name="special"/>
      </metadata>
    </info>
  </bookmark>
  <bookmark href="file:///x/else.txt" added="2020-01-01T00:00:00Z"/>
</xbel>
"""
_N = {
    "b": "http://www.freedesktop.org/standards/desktop-bookmarks",
    "m": "http://www.freedesktop.org/standards/shared-mime-info",
}


def test_a_file_is_added_beside_what_others_noted(tmp_path):
    content = _OTHERS
    for _ in range(2):
        content = with_file(content, Path("/x/a b.csv"), NOW)
    root = etree.fromstring(content)
    known, other = root.findall("bookmark")
    assert other.get("href") == "file:///x/else.txt"
    assert known.findtext("title") == "Kept"
    assert known.get("added") == "2020-01-01T00:00:00Z"
    assert known.get("visited") == "2026-11-29T12:00:00Z"
    assert known.find(".//b:icon", _N).get("name") == "special"
    assert known.find(".//m:mime-type", _N).get("type") == "text/x-special"
    programs = {p.get("name"): p.get("count") for p in known.findall(".//b:application", _N)}
    assert programs == {"Other": "7", "Rhabdos": "2"}


def test_what_is_opened_comes_into_the_list(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    path = tmp_path / "lengths & masses.csv"
    path.write_text("a\n1\n")
    for wanted in (path, tmp_path / "nothing.csv"):
        note_opened(wanted)
    for thread in threading.enumerate():
        if thread.name == "recently used":
            thread.join(10)
    root = etree.fromstring((tmp_path / "data" / FILE).read_bytes())
    (mark,) = root.findall("bookmark")
    assert mark.get("href") == path.as_uri()
    assert mark.find(".//m:mime-type", _N).get("type") == "text/csv"


@pytest.mark.parametrize("content", [b"", b"<xbel>", b"<html/>", b"not XML"])
def test_a_list_that_cannot_be_read_stays_as_it_is(tmp_path, monkeypatch, content):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    (tmp_path / FILE).write_bytes(content)
    path = tmp_path / "a.csv"
    path.write_text("a\n1\n")
    recently_used._add(path)
    assert (tmp_path / FILE).read_bytes() == content
