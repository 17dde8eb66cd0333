"""A box of probes that is not there: it replays a simulated day as such a box would send it.

``GET /about`` names its channels, ``GET /lines?since=N`` streams a JSON object a line, one for each
second of the day: ``{"n", "t_s", "t": [..], "flow_l_per_min", "litres", "volts", "amps"}``; what a
probe did not deliver is null. The same seed gives the same lines, however often they are asked for.
"""

from __future__ import annotations

import json
import threading
import time
from dataclasses import dataclass
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any, Final, Literal
from urllib.parse import parse_qs, urlsplit

import numpy as np
from numpy.typing import NDArray
from scipy.signal import lfilter

from isotherma.core import water
from isotherma.core.results.outcome import Outcome

Floats = NDArray[np.float64]
Temper = Literal["good", "stalled", "rubbish"]
FORMAT: Final = "isotherma-probe-1"
DAY_S: Final = 86_400
BEGINS_S: Final = 24_900  # five to seven, before anybody showers
LAG_S, NOISE_K, DRIFT_K_PER_H, DROPS = 15.0, 0.2, 0.05, 0.02
NOISE_FLOW, NOISE_V, NOISE_A = 0.01, 0.02, 0.1
REST_V, OHM, PUMP_A = 13.2, 0.02, 5.0  # of a battery, its wires and a pump, made up
AIR_C: Final = 15.0  # to which a hose cools that nothing flows through
COOLS_S: Final = 300.0
FASTEST: Final = 600


@dataclass(frozen=True, slots=True)
class Channels:
    """What the probes see in each second of a day; shape (86400,) each, `t_c` (86400, 2)."""

    t_c: Floats
    flow_l_per_min: Floats
    litres: Floats
    volts: Floats
    amps: Floats


def channels_of(outcome: Outcome, seed: int) -> Channels:
    """Turn a simulated day into what probes would see of it.

    Parameters
    ----------
    outcome : Outcome
        A day. [-]
    seed : int
        Of noise and dropouts. [-]

    Returns
    -------
    Channels
        With noise, drift, lag and dropouts, which are NaN. [°C, L/min, L, V, A]
    """
    rows = outcome.timeline.rows
    at = np.clip(np.searchsorted(rows.end_s, np.arange(DAY_S) + 0.5), 0, len(rows) - 1)
    flows = rows.mass_kg / rows.step_s / water.density_kg_per_m3(40.0) * 6e4
    flow = np.where(rows.mass_kg > 0.0, flows, 0.0)[at]
    store = rows.layers_c[at, -1]
    head = _head(rows.head_c[at], flow > 0.0)
    random = np.random.default_rng(seed)
    true = np.column_stack([_lagged(store), _lagged(head)])
    hours = np.arange(DAY_S)[:, None] / 3600.0
    warm = true + random.normal(0.0, NOISE_K, true.shape) + DRIFT_K_PER_H * hours
    amps = np.where(flow > 0.0, PUMP_A, 0.0)
    seen = [
        warm, flow * (1.0 + random.normal(0.0, NOISE_FLOW, DAY_S)), np.cumsum(flow) / 60.0,
        REST_V - OHM * amps + random.normal(0.0, NOISE_V, DAY_S),
        amps + random.normal(0.0, NOISE_A, DAY_S),
    ]  # fmt: skip
    return Channels(*(np.where(random.random(one.shape) < DROPS, np.nan, one) for one in seen))


def _lagged(values: Floats) -> Floats:
    """Follow a temperature as a probe in a pocket does."""
    share = 1.0 - np.exp(-1.0 / LAG_S)
    begin = np.array([(1.0 - share) * values[0]])
    found, _ = lfilter([share], [1.0, share - 1.0], values, zi=begin)
    return np.asarray(found)


def _head(head_c: Floats, flows: NDArray[np.bool_]) -> Floats:
    """Give what a probe at the head sees: the water while it flows, then a cooling hose."""
    found, now = np.empty(len(head_c)), AIR_C
    keeps = float(np.exp(-1.0 / COOLS_S))
    for second, (celsius, flowing) in enumerate(zip(head_c, flows, strict=True)):
        now = float(celsius) if flowing else AIR_C + (now - AIR_C) * keeps
        found[second] = now
    return found


class ProbeBox:
    """Serves a day on loopback, once begun; `temper` is how it behaves from now on.

    Parameters
    ----------
    channels : Channels
        What is replayed. [-]
    speed : int
        Seconds of the day in one second, 1 to 600. [-]
    port : int
        0: any that is free. [-]
    """

    def __init__(self, channels: Channels, *, speed: int = 1, port: int = 0) -> None:
        self.temper: Temper = "good"
        self.channels, self.speed = channels, min(max(1, speed), FASTEST)
        self._began = time.monotonic()
        box = self

        class Handler(BaseHTTPRequestHandler):
            """Answers one request of a box."""

            def do_GET(self) -> None:
                """Say what the box is, or stream its lines."""
                asked = urlsplit(self.path)
                if asked.path == "/about":
                    self._send(json.dumps(box.about()).encode())
                elif asked.path == "/lines":
                    since = parse_qs(asked.query).get("since", ["0"])[0]
                    self._stream(int(since) if since.isdecimal() else 0)
                else:
                    self.send_error(404)

            def log_message(self, format: str, *args: object) -> None:
                """Say nothing."""

            def _send(self, body: bytes) -> None:
                self.send_response(200)
                self.send_header("content-type", "application/json")
                self.send_header("content-length", str(len(body)))
                self.end_headers()
                self.wfile.write(body)

            def _stream(self, since: int) -> None:
                self.send_response(200)
                self.send_header("content-type", "application/x-ndjson")
                self.end_headers()
                try:
                    box.write_lines(self.wfile.write, since)
                except OSError:
                    return  # whoever listened has gone

        self._server = ThreadingHTTPServer(("127.0.0.1", port), Handler)
        self._server.daemon_threads = True
        self._ended = threading.Event()

    @property
    def address(self) -> str:
        """Where it answers."""
        return f"http://127.0.0.1:{self._server.server_address[1]}"

    @property
    def newest(self) -> int:
        """The number of the newest line there is."""
        return int((time.monotonic() - self._began) * self.speed)

    def begin(self) -> None:
        """Answer from now on, in a thread beside."""
        threading.Thread(
            target=self._server.serve_forever, args=(0.1,), name="probe box", daemon=True
        ).start()

    def end(self) -> None:
        """Answer no more, and cut off whoever listens."""
        self._ended.set()
        self._server.shutdown()
        self._server.server_close()

    def about(self) -> dict[str, Any]:
        """Name the channels."""
        rows = (("t0", "Probe 1, in the store", "C"), ("t1", "Probe 2, at the head", "C"),
                ("flow_l_per_min", "Flow meter", "L/min"), ("litres", "Litres since morning", "L"),
                ("volts", "Volts at the pump", "V"), ("amps", "Amps of the pump", "A"))  # fmt: skip
        return {
            "format": FORMAT, "name": "Simulated box of probes", "speed": self.speed,
            "channels": [{"key": key, "title": title, "unit": unit} for key, title, unit in rows],
        }  # fmt: skip

    def line(self, number: int) -> str:
        """Write one line."""
        second = (BEGINS_S + number) % DAY_S
        seen = self.channels
        rest = {
            "flow_l_per_min": seen.flow_l_per_min[second], "litres": seen.litres[second],
            "volts": seen.volts[second], "amps": seen.amps[second],
        }  # fmt: skip
        return json.dumps({
            "n": number, "t_s": number, "t": [_rounded(one) for one in seen.t_c[second]],
            **{key: _rounded(value) for key, value in rest.items()},
        })  # fmt: skip

    def write_lines(self, write: Any, since: int) -> None:  # noqa: ANN401 - of a socket
        """Write lines as they come to be, until told to end."""
        number = since
        while not self._ended.wait(min(1.0, 1.0 / self.speed) if number > self.newest else 0.0):
            if self.temper == "stalled":
                self._ended.wait(0.2)
                continue
            while number <= self.newest and not self._ended.is_set():
                text = self.line(number) if self.temper == "good" else '{"n": "many", \x07'
                write(f"{text}\n".encode())
                number += 1
                if self.temper != "good":
                    break


def _rounded(value: float) -> float | None:
    return None if np.isnan(value) else round(float(value), 3)
