"""The demo vehicles on their trips: days that differ, stops on the way, what holds and what not."""

from __future__ import annotations

from isotherma.catalogue.classes import classes
from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.core import editing
from isotherma.core.brief.days import DayKind, Service, ServiceStop
from isotherma.core.project import Project

_HOUR = 3600.0


def _stops(hour: float, *what: Service) -> tuple[ServiceStop, ...]:
    return tuple(ServiceStop(id=one.replace(" ", "-"), what=one, at_s=hour * _HOUR) for one in what)


def folio_on_trip() -> Project:
    """Send the library to the hills for ten days in winter.

    Returns
    -------
    Project
        With fills on days that drive and one night on hook-up. What has no charger is empty on
        the third day; the variant with chargers does all of it. [-]
    """
    water = _stops(15.0, "fill fresh", "empty grey")
    kinds = (
        DayKind(id="road", name="On the road", drive_s=3 * _HOUR, drive_start_s=10 * _HOUR,
                hook_up="none", stops=water),
        DayKind(id="quiet", name="A quiet day: hands and dishes", drive_s=0.0, hook_up="none",
                without_draws=("ruth", "ilan", "noa")),
        DayKind(id="town", name="To town and back", drive_s=3 * _HOUR, drive_start_s=11 * _HOUR,
                hook_up="none", without_draws=("ruth", "ilan"), stops=water),
        DayKind(id="pitch", name="A night on hook-up", drive_s=_HOUR, drive_start_s=14 * _HOUR,
                hook_up="plugged in", plugged_from_s=16 * _HOUR, plugged_until_s=9 * _HOUR,
                stops=water),
        DayKind(id="home", name="Home", drive_s=4 * _HOUR, drive_start_s=9 * _HOUR,
                hook_up="none", without_draws=("ilan", "noa")),
    )  # fmt: skip
    order = ("road", "quiet", "quiet", "town", "pitch", "quiet", "quiet", "town", "quiet", "home")
    project = editing.set_trip(folio(), kinds, order)
    project = editing.duplicate_variant(project, "button")
    copy = project.variants[-1].id
    for class_id in ("alternator-usual", "charger-drive", "charger-mains"):
        project = editing.add_part(project, copy, classes()[class_id].part)
    by_kind = {part.kind: part.id for part in project.variant(copy).system.parts}
    chargers = [part.id for part in project.variant(copy).system.parts if part.kind == "charger"]
    cables = (
        (f"{by_kind['alternator']}.load", f"{chargers[0]}.feed"),
        (f"{chargers[0]}.load", "battery.power"),
        ("breaker.load", f"{chargers[1]}.feed"),
        (f"{chargers[1]}.load", "battery.power"),
    )
    for start, end in cables:
        project = editing.join(project, copy, start, end, "cable")
    said = {
        f"variants.{copy}.name": "Loop on a button, battery charged",
        "brief.note": "Ten days in the hills, one night of them on a pitch; water is filled on "
        "days that drive, and on the others people wash hands only.",
    }
    return editing.set_values(project, said)


def drover_on_trip() -> Project:
    """Send the horsebox to a show for a weekend.

    Returns
    -------
    Project
        Three days, hook-up on the field, water taken there. Ten litres are too few; fourteen do
        it. [-]
    """
    field = _stops(12.0, "fill fresh", "empty grey")
    kinds = (
        DayKind(id="arrive", name="To the field in the afternoon", drive_s=2 * _HOUR,
                drive_start_s=13 * _HOUR, hook_up="plugged in", plugged_from_s=16 * _HOUR,
                without_draws=("early-shower", "second-shower")),
        DayKind(id="show", name="Show day", drive_s=0.0, hook_up="plugged in", stops=field),
        DayKind(id="home", name="Home after lunch", drive_s=2 * _HOUR, drive_start_s=14 * _HOUR,
                hook_up="plugged in", plugged_until_s=13 * _HOUR,
                without_draws=("evening-shower", "child-shower")),
    )  # fmt: skip
    return editing.set_trip(drover(), kinds, ("arrive", "show", "home"))


def curlew_on_trip() -> Project:
    """Send the small van along a winter coast for eight days.

    Returns
    -------
    Project
        One night in four on hook-up. The store empties the battery; the bag does it. [-]
    """
    water = _stops(14.0, "fill fresh", "empty grey")
    kinds = (
        DayKind(id="coast", name="An hour along the coast", drive_s=_HOUR,
                drive_start_s=13 * _HOUR, hook_up="none", stops=water),
        DayKind(id="storm", name="Standing out a storm", drive_s=0.0, hook_up="none", sun="dark",
                warmer_k=-2.0),
        DayKind(id="pitch", name="A night on hook-up", drive_s=0.5 * _HOUR,
                drive_start_s=14 * _HOUR, hook_up="plugged in", plugged_from_s=16 * _HOUR,
                plugged_until_s=10 * _HOUR, stops=water),
    )  # fmt: skip
    order = ("coast", "storm", "coast", "pitch", "coast", "storm", "coast", "pitch")
    return editing.set_trip(curlew(), kinds, order)
