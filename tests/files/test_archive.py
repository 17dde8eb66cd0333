"""Archives: written and read back the same; hostile ones are refused before they are unpacked."""

from __future__ import annotations

import json
import zipfile
from datetime import UTC, datetime
from io import BytesIO

import pytest

from isotherma.catalogue.demo import drover
from isotherma.core.faults.readings import Reading
from isotherma.core.learning.rows import Row
from isotherma.files.archive import (
    CaseRecord,
    LicensedRecord,
    OwnRow,
    PhotoRecord,
    Record,
    TaskRecord,
    is_archive,
    read_archive,
    write_archive,
)
from isotherma.files.project_file import FileRefused, write_project
from isotherma.files.readings_csv import HEADING
from tests.files.test_photo import picture

ON = datetime(2027, 3, 1, 12, tzinfo=UTC)
OWN = "ten-litres"
ROWS = (
    OwnRow(OWN, Row(1, "=1+1", "draw", 0.0, Reading("flow", "head", 4.25, 0.1), "bucket",
                    "-cold, “ß”"), "Ruth"),
    OwnRow(OWN, Row(2, "=1+1", "draw", 60.5, Reading("air", None, -3.0))),
    OwnRow(OWN, Row(3, "night", "cool_down", 0.0,
                    Reading("cool_down", "store", 95.0, None, 60.0, 45.0))),
)  # fmt: skip
RECORD = Record(
    time_zone="Europe/Lisbon",
    tasks=(
        TaskRecord(variant=OWN, task="mount.pump", state="done", note="rubber", on=ON),
        TaskRecord(
            variant=OWN,
            task="test.gas_tightness",
            state="done",
            by="Ida",
            on=ON,
            as_found="30 mbar",
            as_left="30 mbar",
            record=LicensedRecord(
                name="Ida", number="G-4471", on=ON.date(), method="50 mbar", result="no fall"
            ),
        ),
    ),
    cases=(CaseRecord(variant=OWN, said={"seen": ["no_water"]}, begun=ON),),
    photos=(PhotoRecord(variant=OWN, file="photos/1.jpg", about="mount.pump", on=ON),),
)


def packed(project=None, rows=ROWS, record=RECORD, bodies=None):
    out = BytesIO()
    bodies = [("photos/1.jpg", picture())] if bodies is None else bodies
    write_archive(out, write_project(project or drover()), rows, record, bodies)
    return out


def repacked(**files):
    """The same archive with files of other contents; None leaves one out."""
    inside = zipfile.ZipFile(packed())
    kept = {name: inside.read(name) for name in inside.namelist()} | files
    out = BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, body in kept.items():
            if body is not None:
                made.writestr(name, body)
    return out


def refusal(source):
    with pytest.raises(FileRefused) as caught:
        read_archive(source)
    return caught.value.message


def test_it_comes_back_as_it_was_written():
    source = packed()
    assert is_archive(source.getvalue()[:4])
    found = read_archive(source)
    assert found.project == drover() and found.record == RECORD
    assert [(one.variant, one.row.session, one.row.kind, one.row.time_s, one.row.reading,
             one.row.method, one.row.note, one.by) for one in found.readings] == [
        (one.variant, one.row.session, one.row.kind, one.row.time_s, one.row.reading,
         one.row.method, one.row.note, one.by) for one in ROWS]  # fmt: skip
    assert found.pictures["photos/1.jpg"].width_px == 40


def test_what_a_person_typed_does_not_run_in_a_spreadsheet_and_figures_stay_figures():
    table = zipfile.ZipFile(packed()).read("readings.csv").decode()
    assert "'=1+1" in table and "'-cold" in table and ",-3.0," in table
    assert table.splitlines()[0] == ",".join((*HEADING, "variant", "by"))


def test_a_project_alone_in_it_is_enough_and_readings_without_a_variant_are_of_the_first():
    lines = "\n".join([",".join(HEADING), "a,flow,0,flow.head,4,L/min,,,"])
    found = read_archive(repacked(**{"record.json": None, "readings.csv": lines,
                                     "photos/1.jpg": None}))  # fmt: skip
    assert [one.variant for one in found.readings] == [OWN] and found.record == Record()


@pytest.mark.parametrize("name", [
    "../evil.json", "/etc/passwd", "photos/../../x.jpg", "photos/a.svg", "photos\\1.jpg",
    "project.json/x", "photos/", "PHOTOS/1.jpg",
])  # fmt: skip
def test_a_file_that_does_not_belong_there_is_refused(name):
    assert "does not belong" in refusal(repacked(**{name: b"x"}))


def test_a_packed_bomb_is_refused_by_what_it_says_it_holds():
    assert "MB when unpacked" in refusal(repacked(**{"photos/2.jpg": b"\0" * 9_000_000}))
    many = {f"photos/{number}.jpg": b"\0" * 7_900_000 for number in range(10, 36)}
    assert "200 MB" in refusal(repacked(**many))


def test_one_that_lies_about_what_it_holds_is_refused():
    body = repacked(**{"photos/1.jpg": b"\0" * 4_000_000}).getvalue()
    real, said = (4_000_000).to_bytes(4, "little"), (1000).to_bytes(4, "little")
    assert body.count(real) == 2
    assert "damaged" in refusal(BytesIO(body.replace(real, said)))


@pytest.mark.parametrize(
    ("files", "words"),
    [
        ({"project.json": None}, "no archive of ours"),
        ({"project.json": b"{}"}, "project file"),
        ({"record.json": b"{"}, "no JSON"),
        ({"record.json": b"[" * 20_000}, "no JSON"),
        ({"record.json": b"\xff\xfe"}, "UTF-8"),
        ({"record.json": json.dumps({"format": "isotherma-record-9"})}, "format"),
        ({"record.json": json.dumps({"tasks": [{"variant": OWN}]})}, "tasks"),
        ({"readings.csv": "a,b\n1,2"}, "heading"),
        ({"readings.csv": ",".join(HEADING) + "\na,flow,0,flow.head,many,L/min,,,"}, "row 1"),
        ({"readings.csv": ",".join((*HEADING, "variant")) + "\na,flow,0,air,1,C,,,,other"},
         "variant “other”"),
        ({"photos/1.jpg": b"<svg/>"}, "no JPEG"),
        ({"photos/1.jpg": None}, "which is not there"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_in_it_is_said_with_its_place(files, words):
    assert words in refusal(repacked(**files))


@pytest.mark.parametrize("body", [b"", b"PK\x03\x04", b"PK\x03\x04" + b"\0" * 400])
def test_what_is_no_archive_at_all_is_refused(body):
    assert "damaged" in refusal(BytesIO(body))


def test_a_flipped_byte_is_refused_or_reads_the_same():
    body = packed().getvalue()
    for place in range(20, len(body), len(body) // 40):
        torn = body[:place] + bytes([body[place] ^ 0x5A]) + body[place + 1 :]
        try:
            found = read_archive(BytesIO(torn))
        except FileRefused:
            continue
        assert found.project == drover()
