"""Probes that measure while water runs: a box at an address somebody typed, read line by line.

No other address is ever fetched, and only of this machine or, when asked for, of a home network.
"""

from __future__ import annotations

import ipaddress
import json
import re
from collections.abc import AsyncIterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Final, Literal
from urllib.parse import urlsplit

import anyio
import httpx
from pydantic import BaseModel, Field, ValidationError

from isotherma.core.faults.readings import KINDS, Reading
from isotherma.core.learning.rows import Row
from isotherma.services.logbook import KEPT_MOST

ABOUT_BYTES, LINE_BYTES = 65_536, 4_096
ANSWERS_S, SILENT_S, AGAIN_S = 3.0, 4.0, 2.0
SOON_S: Final = 20.0  # a box that gives what it has kept does so in this time
Word = Annotated[str, Field(min_length=1, max_length=60, pattern=r"^[^\x00-\x1f\x7f]*$")]
CHANNEL: Final = r"t\d{1,2}|flow_l_per_min|litres|volts|amps"
Key = Annotated[str, Field(pattern=rf"^({CHANNEL})$")]
Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e9, le=1e9)]


class ProbeRefused(Exception):
    """An address that is not asked, or a box that cannot be understood; `why` says so."""

    def __init__(self, why: str) -> None:
        super().__init__(why)
        self.why = why


class Channel(BaseModel):
    """One channel of a box."""

    key: Key
    title: Word
    unit: Annotated[str, Field(max_length=12)] = ""


class About(BaseModel):
    """What a box says it is."""

    format: Literal["isotherma-probe-1"]
    name: Word
    channels: Annotated[list[Channel], Field(min_length=1, max_length=40)]


class Line(BaseModel):
    """A second of a box; what a probe did not deliver is None."""

    n: Annotated[int, Field(ge=0, lt=2**53)]
    t_s: Number
    t: Annotated[list[Number | None], Field(max_length=40)] = Field(default_factory=list)
    flow_l_per_min: Number | None = None
    litres: Number | None = None
    volts: Number | None = None
    amps: Number | None = None

    def value(self, key: str) -> float | None:
        """Give what a channel read; None where it did not."""
        if key.startswith("t"):
            place = int(key[1:])
            return self.t[place] if place < len(self.t) else None
        found: float | None = getattr(self, key)
        return found


@dataclass(frozen=True, slots=True)
class Heard:
    """What is heard of a box: a line, or how it is; `lost` counts seconds that never came."""

    state: Literal["live", "silent", "gone", "rubbish"]
    line: Line | None = None
    lost: int = 0


def judged_address(text: str, *, at_home: bool) -> str:
    """Judge an address somebody typed, and give it as it is asked.

    Parameters
    ----------
    text : str
        As http://127.0.0.1:8400. [-]
    at_home : bool
        Whether addresses of a home network may be asked too. [-]

    Returns
    -------
    str
        Scheme, host and port alone. [-]

    Raises
    ------
    ProbeRefused
        If it is no such address.
    """
    try:
        split = urlsplit(text.strip())
        port = split.port
    except ValueError:
        raise ProbeRefused("That is no address; one is as http://127.0.0.1:8400.") from None
    host = split.hostname or ""
    if split.scheme != "http" or port is None or split.username or split.password:
        raise ProbeRefused("Say the address with its port, as http://127.0.0.1:8400.")
    if split.path not in ("", "/") or split.query or split.fragment:
        raise ProbeRefused("Say the address alone, with nothing after its port.")
    try:
        number = ipaddress.ip_address("127.0.0.1" if host == "localhost" else host)
    except ValueError:
        words = "Say the address in figures, as 192.168.4.1; names are not asked."
        raise ProbeRefused(words) from None
    if not number.is_loopback and not (at_home and _of_a_home(number)):
        raise ProbeRefused(
            "Only a box on this machine is asked, or with the tick one of your own network "
            "(10., 172.16. to 172.31., 192.168.)."
        )
    shown = f"[{number}]" if number.version == 6 else str(number)
    return f"http://{shown}:{port}"


def _of_a_home(number: ipaddress.IPv4Address | ipaddress.IPv6Address) -> bool:
    homes = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "fc00::/7")
    return any(
        number in net for net in map(ipaddress.ip_network, homes) if net.version == number.version
    )


def _client() -> httpx.AsyncClient:
    # a box does not send us elsewhere, and no proxy of the surroundings is asked
    return httpx.AsyncClient(follow_redirects=False, trust_env=False,
                             timeout=httpx.Timeout(ANSWERS_S, read=SILENT_S))  # fmt: skip


async def about(address: str) -> About:
    """Ask a box what it is; ProbeRefused if it does not answer, or not as such a box does."""
    try:
        async with _client() as client, client.stream("GET", f"{address}/about") as answer:
            if answer.status_code != 200:
                raise ProbeRefused(f"It answers {answer.status_code}; is it a box of probes?")
            body = b""
            async for piece in answer.aiter_bytes():
                body += piece
                if len(body) > ABOUT_BYTES:
                    raise ProbeRefused("It says more than such a box has to say.")
    except httpx.HTTPError:
        raise ProbeRefused(f"Nothing answers at {address}. Is the box on?") from None
    try:
        return About.model_validate_json(body)
    except ValidationError:
        raise ProbeRefused("It answers, but not as a box of probes does.") from None


async def heard(address: str, since: int = 0) -> AsyncIterator[Heard]:
    """Listen to a box for as long as somebody wants to, whatever it does.

    A box that is gone is called again every two seconds; one that says nothing for four is told
    as silent; what cannot be read is told as rubbish and left out.
    """
    after, begun = since, False
    while True:
        try:
            async with (
                _client() as client,
                client.stream("GET", f"{address}/lines", params={"since": after}) as answer,
            ):
                async for text in _lines(answer):
                    line = _line(text)
                    if line is None or (begun and line.n < after):
                        yield Heard("rubbish")
                        continue
                    lost = line.n - after if begun else 0
                    after, begun = line.n + 1, True
                    yield Heard("live", line, lost)
        except httpx.ReadTimeout:
            yield Heard("silent")
        except (httpx.HTTPError, httpx.StreamError):
            yield Heard("gone")
        else:
            yield Heard("gone")
        await anyio.sleep(AGAIN_S)


async def _lines(answer: httpx.Response) -> AsyncIterator[bytes]:
    """Cut what comes into lines; one that never ends is cut too."""
    rest = b""
    async for piece in answer.aiter_bytes():
        rest += piece
        *whole, rest = rest.split(b"\n")
        for line in whole:
            yield line[:LINE_BYTES]
        if len(rest) > LINE_BYTES:
            yield rest[:LINE_BYTES]
            rest = b""


def _line(text: bytes) -> Line | None:
    try:
        return Line.model_validate(json.loads(text))
    except (ValueError, ValidationError, RecursionError):
        return None


async def kept_lines(address: str, first: int, last: int) -> tuple[list[Line], int]:
    """Fetch lines a box has kept, and count those that could not be read.

    ProbeRefused if it does not give them in twenty seconds.
    """
    found: list[Line] = []
    bad = 0
    with anyio.move_on_after(SOON_S):
        async for one in heard(address, first):
            if one.state in ("gone", "silent"):
                break
            if one.line is None:
                bad += 1
                if bad > KEPT_MOST:
                    break
                continue
            if one.line.n > last:
                break
            found.append(one.line)
            if one.line.n == last:
                break
    if not found:
        raise ProbeRefused("The box does not give what it has read; nothing was kept.")
    return found, bad


def rows_of(
    lines: Sequence[Line], mapping: Mapping[str, tuple[str, str | None]], session: str, kind: str
) -> list[Row]:
    """Turn lines into readings: by channel its quantity and part; gaps are left out."""
    if not lines:
        return []
    begin = lines[0].t_s
    step = max(1, -(-len(lines) * max(1, len(mapping)) // KEPT_MOST))
    rows = []
    for line in lines[::step]:
        for key, (quantity, part) in mapping.items():
            value = line.value(key)
            if value is not None:
                rows.append(Row(0, session, kind, line.t_s - begin,
                                Reading(quantity, part, value), "probe box"))  # fmt: skip
    return rows


def mapped(values: Mapping[str, Any]) -> dict[str, tuple[str, str | None]]:
    """Read which channel is which quantity: ``t0`` → ``temp.store``; strange ones are left out."""
    found: dict[str, tuple[str, str | None]] = {}
    for key, quantity in values.items():
        name, _, part = str(quantity).partition(".")
        if name in KINDS and re.fullmatch(CHANNEL, key):
            found[key] = (name, part or None)
    return found
