"""Probes: which addresses are asked, what is heard of a box, whether it behaves or not."""

from __future__ import annotations

import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import anyio
import numpy as np
import pytest

from isotherma.catalogue.demo import drover
from isotherma.core.results.outcome import Outcome
from isotherma.services import probe
from isotherma.services.probe import (
    Line,
    ProbeRefused,
    about,
    heard,
    judged_address,
    kept_lines,
    mapped,
    rows_of,
)
from isotherma.services.runs import compute
from isotherma.standins.probe_box import BEGINS_S, ProbeBox, channels_of


@pytest.fixture(scope="module")
def day():
    project = drover()
    outcome = compute(project, project.variants[0].built)
    assert isinstance(outcome, Outcome)
    return outcome, channels_of(outcome, seed=7)


@pytest.fixture
def box(day):
    made = ProbeBox(day[1], speed=600)
    made.begin()
    yield made
    made.end()


@pytest.fixture
def patient(monkeypatch):
    """Seconds of waiting made short."""
    monkeypatch.setattr(probe, "SILENT_S", 0.4)
    monkeypatch.setattr(probe, "AGAIN_S", 0.1)


def listen(address, until, since=0, at_most_s=20.0):
    """Hear a box until what was heard fulfils something."""
    found = []

    async def run():
        with anyio.fail_after(at_most_s):
            async for one in heard(address, since):
                found.append(one)
                if until(found):
                    return

    anyio.run(run)
    return found


@pytest.mark.parametrize(
    ("typed", "home", "asked"),
    [
        ("http://127.0.0.1:8400", False, "http://127.0.0.1:8400"),
        (" http://localhost:8400/ ", False, "http://127.0.0.1:8400"),
        ("http://[::1]:8400", False, "http://[::1]:8400"),
        ("http://192.168.4.1:80", True, "http://192.168.4.1:80"),
        ("http://10.1.2.3:8400", True, "http://10.1.2.3:8400"),
    ],
)
def test_a_box_of_this_machine_is_asked_and_of_a_home_when_said(typed, home, asked):
    assert judged_address(typed, at_home=home) == asked


@pytest.mark.parametrize(
    "typed",
    [
        "", "box", "http://127.0.0.1", "https://127.0.0.1:1", "ftp://127.0.0.1:1",
        "http://127.0.0.1:99999", "http://127.0.0.1:1/x", "http://127.0.0.1:1?a=b",
        "http://a:b@127.0.0.1:1", "http://example.com:80", "http://127.0.0.1.example.com:80",
        "http://8.8.8.8:80", "http://169.254.169.254:80", "http://0.0.0.0:80",
        "http://172.32.0.1:80", "http://2130706433:80", "http://[fe80::1]:80", "http://0x7f.1:80",
        "http://127.0.0.1:80@8.8.8.8:80", "http://[::ffff:8.8.8.8]:80", "//127.0.0.1:1",
    ],
)  # fmt: skip
@pytest.mark.parametrize("home", [False, True])
def test_no_other_address_is_ever_asked(typed, home):
    with pytest.raises(ProbeRefused):
        judged_address(typed, at_home=home)


@pytest.mark.parametrize("typed", ["http://192.168.4.1:80", "http://10.0.0.1:80"])
def test_a_home_is_asked_only_when_said(typed):
    with pytest.raises(ProbeRefused, match="own network"):
        judged_address(typed, at_home=False)


def test_the_same_seed_gives_the_same_day_with_noise_lag_drift_and_dropouts(day):
    outcome, seen = day
    again = channels_of(outcome, seed=7)
    assert np.array_equal(seen.t_c, again.t_c, equal_nan=True)
    assert not np.array_equal(seen.t_c, channels_of(outcome, seed=8).t_c, equal_nan=True)
    assert 0.015 < np.isnan(seen.volts).mean() < 0.025
    rows = outcome.timeline.rows
    at = np.searchsorted(rows.end_s, np.arange(86_400) + 0.5).clip(0, len(rows) - 1)
    night = slice(3600, 20_000)  # nobody draws: lag is nothing, what is left is noise and drift
    off = seen.t_c[night, 0] - rows.layers_c[at, -1][night]
    assert abs(np.nanstd(off) - 0.2) < 0.05
    assert abs(np.nanmean(off) - 0.05 * 11_800 / 3600) < 0.1
    drawn = np.nansum(seen.flow_l_per_min) / 60.0
    expected = rows.mass_kg.sum()
    assert drawn == pytest.approx(expected, rel=0.06)  # dropouts, density


def test_a_box_says_what_it_is_and_its_lines_come_in_order(box):
    said = anyio.run(about, box.address)
    assert [one.key for one in said.channels][:3] == ["t0", "t1", "flow_l_per_min"]
    told = listen(box.address, lambda found: len(found) > 50)
    numbers = [one.line.n for one in told]
    assert numbers == list(range(51)) and {one.state for one in told} == {"live"}
    assert sum(one.lost for one in told) == 0
    direct = box.channels.volts[BEGINS_S + 3]
    assert told[3].line.volts is None or told[3].line.volts == pytest.approx(direct, abs=1e-3)


def test_a_stalled_box_is_told_as_silent_and_heard_again(box, patient):
    box.temper = "stalled"
    silent = listen(box.address, lambda found: len(found) >= 2)
    assert {one.state for one in silent} == {"silent"}
    box.temper = "good"
    assert listen(box.address, lambda found: found[-1].state == "live")


def test_a_killed_box_is_told_as_gone_and_called_again(day, patient):
    first = ProbeBox(day[1], speed=600)
    first.begin()
    port = int(first.address.rpartition(":")[2])
    begun = threading.Event()
    later: list[ProbeBox] = []

    def until(found):
        if found[-1].state == "live" and not begun.is_set():
            begun.set()
            first.end()
        if found[-1].state == "gone" and not later:
            later.append(ProbeBox(day[1], speed=600, port=port))
            later[0].begin()
        return bool(later) and found[-1].state == "live"

    told = [one.state for one in listen(first.address, until)]
    later[0].end()
    assert "gone" in told and told[-1] == "live"


def test_rubbish_is_told_and_left_out_and_the_rest_is_heard(box, patient):
    box.temper = "rubbish"
    bad = listen(box.address, lambda found: len(found) >= 3)
    assert {one.state for one in bad} == {"rubbish"} and all(one.line is None for one in bad)
    box.temper = "good"
    assert listen(box.address, lambda found: found[-1].state == "live")


class Odd(BaseHTTPRequestHandler):
    """Answers with whatever it is told to."""

    body, status = b"", 200
    head: tuple[tuple[str, str], ...] = ()

    def do_GET(self):
        self.send_response(self.status)
        for name, value in self.head:
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(self.body)

    def log_message(self, format, *args):
        pass


@pytest.fixture
def odd(request):
    values = dict(request.param)
    handler = type("Told", (Odd,), values)
    server = ThreadingHTTPServer(("127.0.0.1", 0), handler)
    thread = threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_address[1]}"
    server.shutdown()
    server.server_close()


@pytest.mark.parametrize(
    "odd",
    [
        {"status": 404},
        {"status": 302, "head": (("location", "http://127.0.0.1:1/about"),)},
        {"body": b"<html>"},
        {"body": b'{"format": "isotherma-probe-9", "name": "x", "channels": []}'},
        {"body": b"[" * 200_000},
        {
            "body": b'{"format": "isotherma-probe-1", "name": "x",'
            b' "channels": [{"key": "__class__"}]}'
        },
    ],
    indirect=True,
    ids=["404", "elsewhere", "a page", "newer", "endless", "hostile key"],
)
def test_what_is_no_box_is_refused(odd):
    with pytest.raises(ProbeRefused):
        anyio.run(about, odd)


@pytest.mark.parametrize(
    "odd",
    [
        {"body": b"x" * 9_000 + b"\n"},
        {"body": b'{"n": 1e400, "t_s": 0}\n{"n": -1, "t_s": 0}\n{"n": 0, "t_s": NaN}\n'},
        {"body": b'{"n": 0, "t_s": 0, "t": [1e300]}\n' + b"[" * 3_000 + b"\n"},
    ],
    indirect=True,
    ids=["no end of a line", "no numbers", "huge and deep"],
)
def test_hostile_lines_are_rubbish(odd, patient):
    told = listen(odd, lambda found: found[-1].state == "gone")
    assert [one.state for one in told][:-1] and all(one.state == "rubbish" for one in told[:-1])


def test_seconds_that_never_came_are_counted(patient):
    lines = [b'{"n": %d, "t_s": %d, "volts": 12.5}\n' % (n, n) for n in (0, 1, 5, 6)]
    handler = type("Gaps", (Odd,), {"body": b"".join(lines)})
    server = ThreadingHTTPServer(("127.0.0.1", 0), handler)
    threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True).start()
    told = listen(f"http://127.0.0.1:{server.server_address[1]}", lambda found: len(found) >= 4)
    server.shutdown()
    server.server_close()
    assert [one.lost for one in told] == [0, 0, 3, 0]


def test_lines_it_has_kept_are_fetched_and_become_readings_with_gaps_left_out(box):
    lines, bad = anyio.run(kept_lines, box.address, 100, 160)
    assert [one.n for one in lines] == list(range(100, 161)) and bad == 0
    means = mapped({"t0": "temp.store", "flow_l_per_min": "flow.head", "amps": "nonsense"})
    assert means == {"t0": ("temp", "store"), "flow_l_per_min": ("flow", "head")}
    rows = rows_of(lines, means, "Sunday", "draw")
    missing = sum(one.value(key) is None for one in lines for key in means)
    assert len(rows) == 122 - missing
    assert rows[0].time_s == 0.0 and rows[-1].time_s == 60.0
    assert {row.quantity for row in rows} == {"temp.store", "flow.head"}


def test_a_channel_no_box_has_means_nothing():
    strange = ("t_s", "__class__", "n", "t", "t123", "t0\n", "other", "")
    assert mapped(dict.fromkeys(strange, "temp.store")) == {}


def test_nothing_is_no_reading_and_zero_is_one():
    lines = [Line(n=0, t_s=5.0, t=[None], volts=0.0), Line(n=1, t_s=6.0)]
    rows = rows_of(lines, {"t0": ("temp", "a"), "t7": ("temp", "b"), "volts": ("volts", "c")},
                   "s", "electric")  # fmt: skip
    assert [(row.quantity, row.value, row.time_s) for row in rows] == [("volts.c", 0.0, 0.0)]


def test_a_box_that_gives_nothing_keeps_nothing():
    with pytest.raises(ProbeRefused, match="nothing was kept"):
        anyio.run(kept_lines, "http://127.0.0.1:1", 0, 5)
