"""The pages of a design in the order of work: one entry brings a page into the frame."""

from __future__ import annotations

from typing import Final

from fastapi import APIRouter

from isotherma.web.accounts import routes as accounts
from isotherma.web.api import routes as api
from isotherma.web.brief import routes as brief
from isotherma.web.brief.page import brief_page
from isotherma.web.budgets import routes as budgets
from isotherma.web.budgets.page import budgets_page
from isotherma.web.build import routes as build
from isotherma.web.build.page import build_mark, build_page
from isotherma.web.checks import routes as checks
from isotherma.web.checks.page import checks_page
from isotherma.web.compare import routes as compare
from isotherma.web.compare.page import compare_page
from isotherma.web.dossier import routes as dossier
from isotherma.web.dossier.page import dossier_mark, dossier_page
from isotherma.web.editing import commands
from isotherma.web.editing import forms as editing_forms
from isotherma.web.faults import routes as faults
from isotherma.web.faults.page import faults_page
from isotherma.web.flow import routes as flow
from isotherma.web.flow.page import flow_page
from isotherma.web.frame.context import Room
from isotherma.web.frame.found import checks_mark
from isotherma.web.frame.marks import (
    any_mark,
    brief_mark,
    budgets_mark,
    flow_mark,
    heat_mark,
    layout_mark,
    parts_mark,
    shower_mark,
    spaces_mark,
)
from isotherma.web.heat import routes as heat
from isotherma.web.heat.page import heat_page
from isotherma.web.home import routes as home
from isotherma.web.layout import routes as layout
from isotherma.web.layout.page import layout_page
from isotherma.web.links import routes as links
from isotherma.web.log import import_routes as imports
from isotherma.web.log import probe_routes as probes
from isotherma.web.log import routes as log
from isotherma.web.log.page import log_page
from isotherma.web.parts import routes as parts
from isotherma.web.parts.page import parts_page
from isotherma.web.photos import routes as photos
from isotherma.web.power import routes as power
from isotherma.web.power.page import power_page
from isotherma.web.reference import routes as reference
from isotherma.web.sharing import routes as sharing
from isotherma.web.sharing.page import share_mark, share_page
from isotherma.web.shopping import routes as shopping
from isotherma.web.shopping.page import shopping_mark, shopping_page
from isotherma.web.shower import routes as shower
from isotherma.web.shower.page import shower_page
from isotherma.web.spaces import routes as spaces
from isotherma.web.spaces.page import spaces_page
from isotherma.web.start import routes as start
from isotherma.web.sums import routes as sums
from isotherma.web.sweep import routes as sweep
from isotherma.web.sweep.page import sweep_page
from isotherma.web.use import routes as use
from isotherma.web.use.page import use_mark, use_page
from isotherma.web.versions import routes as versions
from isotherma.web.work import routes as work

ROOMS: Final = (
    Room("brief", "Ask", "Brief", "Who washes, when and where?", brief_page, brief_mark),
    Room("heat", "Heat", "Heat", "What should heat the water?", heat_page, heat_mark),
    Room("layout", "Lay out", "Layout", "Which way does the water go?", layout_page, layout_mark),
    Room("parts", "Lay out", "Parts", "What does the water pass through?", parts_page, parts_mark),
    Room(
        "spaces",
        "Lay out",
        "Spaces and states",
        "Where does it live, and how does it stand?",
        spaces_page,
        spaces_mark,
    ),
    Room("flow", "Lay out", "Flow", "What does every pipe and valve do?", flow_page, flow_mark),
    Room(
        "power",
        "Lay out",
        "Power and gas",
        "What do the wires and the gas pipe carry?",
        power_page,
        flow_mark,
    ),
    Room("shower", "Try", "Shower", "What comes out of the head?", shower_page, shower_mark),
    Room("budgets", "Try", "Budgets", "What runs out first?", budgets_page, budgets_mark),
    Room(
        "checks",
        "Check",
        "Checks",
        "What could hurt somebody?",
        checks_page,
        checks_mark,
    ),
    Room(
        "shopping",
        "Buy",
        "Shopping",
        "What do I buy, cut and drill?",
        shopping_page,
        shopping_mark,
    ),
    Room("build", "Build", "Build", "What is done next?", build_page, build_mark),
    Room("use", "Use", "Use", "How do I get a warm shower today?", use_page, use_mark),
    Room("dossier", "Use", "Dossier", "What goes on paper?", dossier_page, dossier_mark),
    Room("share", "Use", "Share", "Who else may see it?", share_page, share_mark),
    Room("faults", "Use", "Faults", "What is wrong with it?", faults_page, any_mark),
    Room("log", "Use", "Log", "What was measured?", log_page, any_mark),
    Room("sweep", "Decide", "Sweep", "How far can it be turned?", sweep_page, any_mark),
    Room("compare", "Decide", "Compare", "Which of them is better?", compare_page, any_mark),
)
ROUTERS: Final[tuple[APIRouter, ...]] = (
    accounts.router, links.router, api.router, sharing.router, home.router, start.router,
    reference.router, sums.router, versions.router, brief.router, heat.router, layout.router,
    parts.router, spaces.router, flow.router, power.router, shower.router, budgets.router,
    checks.router, shopping.router, build.router, faults.router, use.router, dossier.router,
    log.router, imports.router, probes.router, photos.router, sweep.router, compare.router,
    editing_forms.router, commands.router, work.router,
)  # fmt: skip
