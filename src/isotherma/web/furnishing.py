"""The services of a process on its database: one for pages, one for a worker that makes pages."""

from __future__ import annotations

from sqlalchemy.orm import Session, sessionmaker

from isotherma.core.cache import Caches
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
from isotherma.services.long_work import LongWork
from isotherma.services.mending import MendingService
from isotherma.services.own_classes import OwnClasses
from isotherma.services.photos import Photos
from isotherma.services.plan_keeping import PlanKeeping
from isotherma.services.practising import PracticeService
from isotherma.services.sharing import Sharing
from isotherma.services.sizing import SizingService
from isotherma.services.stored_results import StoredResults
from isotherma.services.sweeps import SweepService
from isotherma.services.using import UsingService
from isotherma.services.vehicles import Vehicles
from isotherma.services.version_two import VersionTwoService
from isotherma.services.year import YearService
from isotherma.web.frame.context import Services
from isotherma.web.home.page import summary_of
from isotherma.web.page_cache import PageCache


def services_on(
    sessions: sessionmaker[Session], caches: Caches, known: Caches, keeping: StoredResults,
    working: LongWork,
) -> Services:  # fmt: skip
    """Put the services of a process together.

    `caches` are its own, `known` what is computed from content alone, which others may share.
    """
    vehicles, own_classes = Vehicles(sessions, caches), OwnClasses(sessions)
    logbook = Logbook(sessions)
    computing = ResultService(known, keeping, summary_of)
    return Services(
        vehicles,
        computing,
        CheckService(caches, computing),
        FlowService(known),
        ComparisonService(caches, working),
        MendingService(caches, working),
        working,
        SizingService(caches, working),
        YearService(caches, working),
        SweepService(caches, working),
        InverseService(caches, working),
        LeverService(caches, working),
        LearnService(caches, working),
        VersionTwoService(caches, working),
        Importing(sessions, logbook),
        UsingService(caches, working),
        OwnWays(caches, working),
        own_classes,
        PlanKeeping(sessions),
        FaultService(known),
        FaultCases(sessions),
        PracticeService(caches),
        logbook,
        Photos(sessions),
        Archives(sessions, vehicles),
        DossierService(sessions, vehicles, working),
        Accounts(sessions),
        Sharing(sessions),
        PageCache(caches, vehicles, own_classes.mark),
    )
