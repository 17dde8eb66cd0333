"""Codes and typed values → sentences in the reader's units: the only place with prose.

One folder for a language, all with the same names; this module gives those of the language in use.
English is the only one yet. A name is loaded when it is first asked for: a command that says what
is wrong with a file needs no sentence on flows.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    from isotherma.wording.english.building import EXPECT_WORDS as EXPECT_WORDS
    from isotherma.wording.english.building import MISS_WORDS as MISS_WORDS
    from isotherma.wording.english.building import NOT_COMPUTED as NOT_COMPUTED
    from isotherma.wording.english.building import STAGE_WORDS as STAGE_WORDS
    from isotherma.wording.english.building import TASK_CAUTIONS as TASK_CAUTIONS
    from isotherma.wording.english.building import TASK_WORDS as TASK_WORDS
    from isotherma.wording.english.building import TRADE_WORDS as TRADE_WORDS
    from isotherma.wording.english.building import stage_title as stage_title
    from isotherma.wording.english.building import task_title as task_title
    from isotherma.wording.english.can_do import ENDS as ENDS
    from isotherma.wording.english.can_do import row_words as row_words
    from isotherma.wording.english.can_do import suits_words as suits_words
    from isotherma.wording.english.causes import cause_words as cause_words
    from isotherma.wording.english.cautions import CAUTIONS as CAUTIONS
    from isotherma.wording.english.cautions import REFUSED as REFUSED
    from isotherma.wording.english.cautions import caution as caution
    from isotherma.wording.english.cautions import cautions as cautions
    from isotherma.wording.english.changes import change_words as change_words
    from isotherma.wording.english.changes import changes_words as changes_words
    from isotherma.wording.english.checks import GROUP_WORDS as GROUP_WORDS
    from isotherma.wording.english.checks import SEVERITY_WORDS as SEVERITY_WORDS
    from isotherma.wording.english.checks import WHO_WORDS as WHO_WORDS
    from isotherma.wording.english.checks import check_how as check_how
    from isotherma.wording.english.checks import check_reads as check_reads
    from isotherma.wording.english.checks import check_remedy as check_remedy
    from isotherma.wording.english.checks import check_sentence as check_sentence
    from isotherma.wording.english.compared import FAILS_WORDS as FAILS_WORDS
    from isotherma.wording.english.compared import LIMITED_WORDS as LIMITED_WORDS
    from isotherma.wording.english.compared import MADE_OF_WORDS as MADE_OF_WORDS
    from isotherma.wording.english.compared import failure_words as failure_words
    from isotherma.wording.english.compared import limit_words as limit_words
    from isotherma.wording.english.compared import state_change_words as state_change_words
    from isotherma.wording.english.compared import works_without_words as works_without_words
    from isotherma.wording.english.comparing import HOLDING as HOLDING
    from isotherma.wording.english.comparing import KEPT as KEPT
    from isotherma.wording.english.comparing import NEEDS as NEEDS
    from isotherma.wording.english.comparing import REMEDIES as REMEDIES
    from isotherma.wording.english.comparing import STRATEGIES as STRATEGIES
    from isotherma.wording.english.comparing import needs_words as needs_words
    from isotherma.wording.english.edits import EDIT_LABELS as EDIT_LABELS
    from isotherma.wording.english.edits import edit_label as edit_label
    from isotherma.wording.english.errors import REASONS as REASONS
    from isotherma.wording.english.errors import error_words as error_words
    from isotherma.wording.english.errors import reason_of as reason_of
    from isotherma.wording.english.faults import FAULT_WORDS as FAULT_WORDS
    from isotherma.wording.english.faults import JUDGED_WORDS as JUDGED_WORDS
    from isotherma.wording.english.faults import QUANTITY_WORDS as QUANTITY_WORDS
    from isotherma.wording.english.faults import fault_title as fault_title
    from isotherma.wording.english.faults import figure_words as figure_words
    from isotherma.wording.english.faults import quantity_title as quantity_title
    from isotherma.wording.english.faults import range_words as range_words
    from isotherma.wording.english.faults import read_words as read_words
    from isotherma.wording.english.faults import reason_sentence as reason_sentence
    from isotherma.wording.english.faults import somewhere_title as somewhere_title
    from isotherma.wording.english.faults import stop_words as stop_words
    from isotherma.wording.english.faults import suspect_title as suspect_title
    from isotherma.wording.english.faults import tell_words as tell_words
    from isotherma.wording.english.faults import title_of_test as title_of_test
    from isotherma.wording.english.faults import twins_sentence as twins_sentence
    from isotherma.wording.english.faults import why_test as why_test
    from isotherma.wording.english.flows import DOES as DOES
    from isotherma.wording.english.flows import doing_words as doing_words
    from isotherma.wording.english.flows import flow_warning as flow_warning
    from isotherma.wording.english.flows import flow_words as flow_words
    from isotherma.wording.english.flows import outlet_sentence as outlet_sentence
    from isotherma.wording.english.flows import pressure_words as pressure_words
    from isotherma.wording.english.flows import pump_sentences as pump_sentences
    from isotherma.wording.english.flows import shock_sentence as shock_sentence
    from isotherma.wording.english.joints import LINE_WHY as LINE_WHY
    from isotherma.wording.english.joints import MEASURE_WORDS as MEASURE_WORDS
    from isotherma.wording.english.joints import REFUSED_JOINT_WORDS as REFUSED_JOINT_WORDS
    from isotherma.wording.english.joints import SEAL_WORDS as SEAL_WORDS
    from isotherma.wording.english.learning import LEARNED_WHY as LEARNED_WHY
    from isotherma.wording.english.learning import SESSION_WORDS as SESSION_WORDS
    from isotherma.wording.english.learning import learned_why as learned_why
    from isotherma.wording.english.power import WHY_OFF as WHY_OFF
    from isotherma.wording.english.power import circuit_words as circuit_words
    from isotherma.wording.english.power import gas_sentences as gas_sentences
    from isotherma.wording.english.power import load_words as load_words
    from isotherma.wording.english.power import power_sentences as power_sentences
    from isotherma.wording.english.remarks import LEFT_OUT as LEFT_OUT
    from isotherma.wording.english.remarks import REMARKS as REMARKS
    from isotherma.wording.english.remarks import RemarkWords as RemarkWords
    from isotherma.wording.english.remarks import remark_words as remark_words
    from isotherma.wording.english.room import filled_sentence as filled_sentence
    from isotherma.wording.english.room import fit_sentence as fit_sentence
    from isotherma.wording.english.room import reach_sentences as reach_sentences
    from isotherma.wording.english.routines import ROUTINE_CAUTIONS as ROUTINE_CAUTIONS
    from isotherma.wording.english.routines import ROUTINES as ROUTINES
    from isotherma.wording.english.routines import routine_step as routine_step
    from isotherma.wording.english.routines import step_time as step_time
    from isotherma.wording.english.routines import sweat_words as sweat_words
    from isotherma.wording.english.shopping import EDGE_WORDS as EDGE_WORDS
    from isotherma.wording.english.shopping import ITEM_WORDS as ITEM_WORDS
    from isotherma.wording.english.shopping import SHOP_WORDS as SHOP_WORDS
    from isotherma.wording.english.shopping import STEP_WORDS as STEP_WORDS
    from isotherma.wording.english.shopping import WAY_WORDS as WAY_WORDS
    from isotherma.wording.english.shopping import remark_sentence as remark_sentence
    from isotherma.wording.english.shopping import unknown_words as unknown_words
    from isotherma.wording.english.sizing import FOOT_WORDS as FOOT_WORDS
    from isotherma.wording.english.sizing import all_struck_words as all_struck_words
    from isotherma.wording.english.sizing import extreme_words as extreme_words
    from isotherma.wording.english.sizing import struck_words as struck_words
    from isotherma.wording.english.sums import SUM_CELLS as SUM_CELLS
    from isotherma.wording.english.sums import SUM_REMARKS as SUM_REMARKS
    from isotherma.wording.english.sweeps import measure_words as measure_words
    from isotherma.wording.english.sweeps import measured_words as measured_words
    from isotherma.wording.english.tanks import doubt_sentence as doubt_sentence
    from isotherma.wording.english.tanks import gauge_sentence as gauge_sentence
    from isotherma.wording.english.tanks import hot_air_words as hot_air_words
    from isotherma.wording.english.tanks import joined_sentences as joined_sentences
    from isotherma.wording.english.tanks import reading_words as reading_words
    from isotherma.wording.english.tanks import stroke_sentence as stroke_sentence
    from isotherma.wording.english.tanks import stuck_sentences as stuck_sentences
    from isotherma.wording.english.traces import INPUTS as INPUTS
    from isotherma.wording.english.traces import TRACES as TRACES
    from isotherma.wording.english.traces import TraceWords as TraceWords
    from isotherma.wording.english.traces import input_words as input_words
    from isotherma.wording.english.traces import trace_title as trace_title
    from isotherma.wording.english.trips import SERVICES as SERVICES
    from isotherma.wording.english.trips import day_kind_words as day_kind_words
    from isotherma.wording.english.trips import days_words as days_words
    from isotherma.wording.english.trips import fails_words as fails_words
    from isotherma.wording.english.trips import first_wrong_words as first_wrong_words
    from isotherma.wording.english.trips import goes_words as goes_words
    from isotherma.wording.english.trips import going_title as going_title
    from isotherma.wording.english.trips import left_words as left_words
    from isotherma.wording.english.trips import month_words as month_words
    from isotherma.wording.english.trips import order_words as order_words
    from isotherma.wording.english.trips import stops_words as stops_words
    from isotherma.wording.english.trips import year_words as year_words
    from isotherma.wording.english.using import SHUT_WORDS as SHUT_WORDS
    from isotherma.wording.english.using import TROUBLE_FIRST as TROUBLE_FIRST
    from isotherma.wording.english.using import TROUBLE_SYMPTOM as TROUBLE_SYMPTOM
    from isotherma.wording.english.using import TROUBLE_WORDS as TROUBLE_WORDS
    from isotherma.wording.english.using import now_acts as now_acts
    from isotherma.wording.english.using import now_sentences as now_sentences
    from isotherma.wording.english.using import opening_words as opening_words
    from isotherma.wording.english.using import tap_sentence as tap_sentence
    from isotherma.wording.english.validation import PROBLEMS as PROBLEMS
    from isotherma.wording.english.validation import problem_words as problem_words
    from isotherma.wording.english.validation import validation_sentences as validation_sentences
    from isotherma.wording.english.verdict import last_day_words as last_day_words
    from isotherma.wording.english.verdict import ready_words as ready_words
    from isotherma.wording.english.verdict import reason_words as reason_words
    from isotherma.wording.english.verdict import verdict as verdict
    from isotherma.wording.english.waste import WHY as WHY
    from isotherma.wording.english.waste import drain_sentence as drain_sentence
    from isotherma.wording.english.waste import empties_sentence as empties_sentence
    from isotherma.wording.english.waste import fills_sentence as fills_sentence
    from isotherma.wording.english.waste import pump_start_sentences as pump_start_sentences
    from isotherma.wording.english.waste import trapped_sentence as trapped_sentence
    from isotherma.wording.english.waste import tray_sentences as tray_sentences
    from isotherma.wording.english.waste import waste_sentences as waste_sentences
    from isotherma.wording.english.waste import waste_words as waste_words
    from isotherma.wording.english.weights import lift_sentence as lift_sentence
    from isotherma.wording.english.weights import slosh_sentence as slosh_sentence
    from isotherma.wording.english.weights import weighed_row as weighed_row
    from isotherma.wording.english.weights import weight_sentences as weight_sentences
    from isotherma.wording.english.work import work_words as work_words

LANGUAGE: Final = "english"
HOME: Final = {
    "LINE_WHY": "joints",
    "MEASURE_WORDS": "joints",
    "REFUSED_JOINT_WORDS": "joints",
    "SEAL_WORDS": "joints",
    "EXPECT_WORDS": "building",
    "MISS_WORDS": "building",
    "NOT_COMPUTED": "building",
    "STAGE_WORDS": "building",
    "TASK_CAUTIONS": "building",
    "TASK_WORDS": "building",
    "TRADE_WORDS": "building",
    "stage_title": "building",
    "task_title": "building",
    "EDGE_WORDS": "shopping",
    "ITEM_WORDS": "shopping",
    "SHOP_WORDS": "shopping",
    "STEP_WORDS": "shopping",
    "WAY_WORDS": "shopping",
    "remark_sentence": "shopping",
    "unknown_words": "shopping",
    "GROUP_WORDS": "checks",
    "SEVERITY_WORDS": "checks",
    "WHO_WORDS": "checks",
    "check_how": "checks",
    "check_reads": "checks",
    "check_remedy": "checks",
    "check_sentence": "checks",
    "filled_sentence": "room",
    "fit_sentence": "room",
    "reach_sentences": "room",
    "lift_sentence": "weights",
    "slosh_sentence": "weights",
    "weighed_row": "weights",
    "weight_sentences": "weights",
    "doubt_sentence": "tanks",
    "gauge_sentence": "tanks",
    "hot_air_words": "tanks",
    "joined_sentences": "tanks",
    "reading_words": "tanks",
    "stroke_sentence": "tanks",
    "stuck_sentences": "tanks",
    "CAUTIONS": "cautions",
    "REFUSED": "cautions",
    "REMEDIES": "comparing",
    "DOES": "flows",
    "EDIT_LABELS": "edits",
    "INPUTS": "traces",
    "KEPT": "comparing",
    "LEFT_OUT": "remarks",
    "NEEDS": "comparing",
    "PROBLEMS": "validation",
    "REASONS": "errors",
    "REMARKS": "remarks",
    "RemarkWords": "remarks",
    "SERVICES": "trips",
    "HOLDING": "comparing",
    "LEARNED_WHY": "learning",
    "SESSION_WORDS": "learning",
    "learned_why": "learning",
    "FAULT_WORDS": "faults",
    "QUANTITY_WORDS": "faults",
    "JUDGED_WORDS": "faults",
    "fault_title": "faults",
    "ROUTINES": "routines",
    "ROUTINE_CAUTIONS": "routines",
    "routine_step": "routines",
    "step_time": "routines",
    "sweat_words": "routines",
    "SHUT_WORDS": "using",
    "TROUBLE_FIRST": "using",
    "TROUBLE_SYMPTOM": "using",
    "TROUBLE_WORDS": "using",
    "now_acts": "using",
    "now_sentences": "using",
    "opening_words": "using",
    "tap_sentence": "using",
    "somewhere_title": "faults",
    "suspect_title": "faults",
    "twins_sentence": "faults",
    "title_of_test": "faults",
    "quantity_title": "faults",
    "figure_words": "faults",
    "range_words": "faults",
    "reason_sentence": "faults",
    "read_words": "faults",
    "stop_words": "faults",
    "why_test": "faults",
    "tell_words": "faults",
    "STRATEGIES": "comparing",
    "SUM_CELLS": "sums",
    "SUM_REMARKS": "sums",
    "FAILS_WORDS": "compared",
    "LIMITED_WORDS": "compared",
    "MADE_OF_WORDS": "compared",
    "TRACES": "traces",
    "TraceWords": "traces",
    "WHY": "waste",
    "ENDS": "can_do",
    "WHY_OFF": "power",
    "circuit_words": "power",
    "gas_sentences": "power",
    "load_words": "power",
    "power_sentences": "power",
    "FOOT_WORDS": "sizing",
    "all_struck_words": "sizing",
    "extreme_words": "sizing",
    "row_words": "can_do",
    "suits_words": "can_do",
    "cause_words": "causes",
    "change_words": "changes",
    "changes_words": "changes",
    "caution": "cautions",
    "cautions": "cautions",
    "day_kind_words": "trips",
    "days_words": "trips",
    "doing_words": "flows",
    "drain_sentence": "waste",
    "edit_label": "edits",
    "empties_sentence": "waste",
    "error_words": "errors",
    "failure_words": "compared",
    "fails_words": "trips",
    "fills_sentence": "waste",
    "first_wrong_words": "trips",
    "flow_warning": "flows",
    "flow_words": "flows",
    "goes_words": "trips",
    "going_title": "trips",
    "input_words": "traces",
    "pump_start_sentences": "waste",
    "last_day_words": "verdict",
    "left_words": "trips",
    "limit_words": "compared",
    "measure_words": "sweeps",
    "measured_words": "sweeps",
    "month_words": "trips",
    "needs_words": "comparing",
    "order_words": "trips",
    "outlet_sentence": "flows",
    "pressure_words": "flows",
    "problem_words": "validation",
    "pump_sentences": "flows",
    "ready_words": "verdict",
    "reason_of": "errors",
    "reason_words": "verdict",
    "remark_words": "remarks",
    "shock_sentence": "flows",
    "state_change_words": "compared",
    "stops_words": "trips",
    "struck_words": "sizing",
    "trace_title": "traces",
    "trapped_sentence": "waste",
    "tray_sentences": "waste",
    "validation_sentences": "validation",
    "verdict": "verdict",
    "waste_sentences": "waste",
    "waste_words": "waste",
    "work_words": "work",
    "works_without_words": "compared",
    "year_words": "trips",
}


def __getattr__(name: str) -> object:
    """Give a name of the language in use."""
    if name not in HOME:
        raise AttributeError(f"there are no words called {name}")
    found = getattr(import_module(f"{__name__}.{LANGUAGE}.{HOME[name]}"), name)
    globals()[name] = found
    return found
