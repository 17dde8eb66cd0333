"""What every page is made from: the services of this process, and what was asked of a design."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Literal
from urllib.parse import urlsplit

from fastapi import Depends, Request
from starlette.datastructures import QueryParams

from isotherma.core.errors import CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.services.accounts import Accounts
from isotherma.services.archives import Archives
from isotherma.services.can_do import OwnWays
from isotherma.services.checking import CheckService
from isotherma.services.comparisons import ComparisonService
from isotherma.services.computing import ResultService
from isotherma.services.diagnosing import FaultService
from isotherma.services.dossier_work import DossierService
from isotherma.services.fault_cases import FaultCases
from isotherma.services.flows import FlowService
from isotherma.services.importing import Importing
from isotherma.services.inverse import InverseService
from isotherma.services.learn_work import LearnService
from isotherma.services.levers import LeverService
from isotherma.services.logbook import Logbook
from isotherma.services.long_work import Asker, LongWork
from isotherma.services.mending import MendingService
from isotherma.services.own_classes import OwnClasses
from isotherma.services.photos import Photos
from isotherma.services.plan_keeping import PlanKeeping
from isotherma.services.practising import PracticeService
from isotherma.services.sharing import Sharing
from isotherma.services.sizing import SizingService
from isotherma.services.sweeps import SweepService
from isotherma.services.turns import Stopped, never
from isotherma.services.using import UsingService
from isotherma.services.vehicles import Opened, Vehicles, find_variant
from isotherma.services.version_two import VersionTwoService
from isotherma.services.year import YearService
from isotherma.web.frame.forms import Typed
from isotherma.web.page_cache import PageCache
from isotherma.web.persons import person_of
from isotherma.web.rendering import PageClass, path_for, units_of


@dataclass(frozen=True, slots=True)
class Services:
    """The use cases a page can call."""

    vehicles: Vehicles
    computing: ResultService
    checking: CheckService
    flowing: FlowService
    comparing: ComparisonService
    mending: MendingService
    working: LongWork
    sizing: SizingService
    year: YearService
    sweeping: SweepService
    inverting: InverseService
    levering: LeverService
    learning: LearnService
    next_version: VersionTwoService
    importing: Importing
    using: UsingService
    owning: OwnWays
    own_classes: OwnClasses
    plan_keeping: PlanKeeping
    fault_finding: FaultService
    fault_cases: FaultCases
    practising: PracticeService
    logbook: Logbook
    photos: Photos
    archives: Archives
    dossiers: DossierService
    accounts: Accounts
    sharing: Sharing
    unchanged: PageCache


@dataclass(frozen=True, slots=True)
class Mark:
    """How a page's work stands: done enough for a first answer, something missing, or wrong."""

    sign: Literal["done", "missing", "wrong"]
    words: str


@dataclass(frozen=True, slots=True)
class Room:
    """A page in the order of work.

    Its key in addresses, the stage it belongs to, its title, its question, what makes it, and
    what says how its work stands; it is given the variant's result, or why there is none.
    """

    key: str
    stage: str
    title: str
    question: str
    make: Callable[[PageContext], PageClass]
    mark: Callable[[PageContext, Outcome | CoreError], Mark]


@dataclass(frozen=True, slots=True)
class PageContext:
    """What a page of a design is made from.

    `query` is what the address asks, after a change what the page asked that it came from;
    `typed` a form that was refused, `piece` the piece that stands open, `person` names the browser
    that asks, `path_of` gives the address of a page of this design by its name (of
    another variant by its id after that), `stopped` says
    whether whoever asked is still there; `address` is where phones reach this server, "" where
    nobody said; `may` what who asks may do with it: "look", "edit" or "own".
    """

    services: Services
    rooms: tuple[Room, ...]
    opened: Opened
    variant_id: str
    units: UnitSystem
    query: QueryParams
    typed: Typed | None = None
    notice: str = ""
    piece: str = ""
    person: str = ""
    path_of: Callable[..., str] = str
    stopped: Stopped = never
    address: str = ""
    may: str = "own"

    @property
    def asker(self) -> Asker:
        """Who asks for long work, and whether anew."""
        place = f"{self.opened.vehicle_id}/{self.variant_id}"
        return Asker(self.person, place, self.opened.head_id, self.query.get("again") == "1")

    @property
    def project(self) -> Project:
        """The vehicle's document."""
        return self.opened.project

    @property
    def variant(self) -> Variant:
        """The variant that is looked at; NotFound if it is gone."""
        return find_variant(self.opened.project, self.variant_id)

    @property
    def built(self) -> Variant:
        """The same with what is there on the day that is seen: to compute and to draw."""
        return self.variant.built


@dataclass(frozen=True, slots=True)
class DesignRequest:
    """A request for a page of a design, or to change one."""

    request: Request
    services: Services
    vehicle_id: int
    variant_id: str

    @property
    def units(self) -> UnitSystem:
        """The person's units."""
        return units_of(self.request)

    @property
    def rooms(self) -> tuple[Room, ...]:
        """The pages of a design."""
        rooms: tuple[Room, ...] = self.request.app.state.rooms
        return rooms

    def open(self) -> Opened:
        """Open the vehicle as it is now."""
        return self.services.vehicles.open(self.vehicle_id)

    @property
    def person(self) -> str:
        """Name the browser that asks: by its cookie, or one it is given with the answer."""
        return person_of(self.request)

    def context(
        self, opened: Opened | None = None, *, typed: Typed | None = None, notice: str = "",
        piece: str = "", stopped: Stopped = never,
    ) -> PageContext:  # fmt: skip
        """Gather what a page is made from, of the vehicle as it is now or as it was just opened."""
        return PageContext(
            self.services, self.rooms, opened or self.open(), self.variant_id, self.units,
            _query_of(self.request), typed, notice, piece, self.person,
            self.path, stopped, self.request.app.state.address, self.request.state.may,
        )  # fmt: skip

    def path(self, name: str, variant_id: str | None = None) -> str:
        """Give the address of a page of this vehicle by its name."""
        return path_for(
            self.request, name, vehicle_id=self.vehicle_id, variant_id=variant_id or self.variant_id
        )


def _query_of(request: Request) -> QueryParams:
    """Give what the address asks for; after a change, what the page it came from showed."""
    if request.method == "GET":
        return request.query_params
    try:
        query = urlsplit(request.headers.get("hx-current-url", "")).query
    except ValueError:  # no address at all: as if nothing had been asked for
        query = ""
    return QueryParams(query)


async def _services(request: Request) -> Services:
    services: Services = request.app.state.services
    return services


ServicesDep = Annotated[Services, Depends(_services)]


async def _design(
    request: Request, services: ServicesDep, vehicle_id: int, variant_id: str
) -> DesignRequest:
    return DesignRequest(request, services, vehicle_id, variant_id)


DesignDep = Annotated[DesignRequest, Depends(_design)]
DESIGN = "/vehicles/{vehicle_id}/{variant_id}"
