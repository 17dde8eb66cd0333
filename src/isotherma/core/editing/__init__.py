"""Edits of a project: one value by its path, or one piece added or taken away.

Every function takes a project and gives another; nothing is changed in place, and
what comes out has been validated as a whole.
"""

from __future__ import annotations

from isotherma.core.editing.acknowledging import acknowledge, choose_rules, take_back
from isotherma.core.editing.around import (
    add_piece,
    remove_piece,
    say_state,
    set_place,
    set_position,
)
from isotherma.core.editing.brief import (
    add_draw,
    add_use,
    keep_examples,
    remove_draw,
    remove_use,
    repeat_draw,
    touched,
)
from isotherma.core.editing.buying import (
    keep_price,
    measure_run,
    plan_hole,
    price_kept,
    set_end,
)
from isotherma.core.editing.diverter import place_diverter
from isotherma.core.editing.measuring import forget_measured as forget_measured
from isotherma.core.editing.measuring import take_measured as take_measured
from isotherma.core.editing.parts import (
    add_part,
    add_run,
    cap_port,
    fit_part,
    goes_in_line,
    insert_part,
    join,
    new_part,
    remove_part,
    replace_part,
    with_runs,
)
from isotherma.core.editing.places import move_part, put_part
from isotherma.core.editing.trip import (
    add_day_kind,
    add_stop,
    plan_stop,
    remove_day_kind,
    remove_stop,
    set_trip,
)
from isotherma.core.editing.values import (
    fresh_id,
    set_values,
    value_at,
    with_system,
)
from isotherma.core.editing.variants import (
    add_owned,
    copy_system,
    duplicate_variant,
    keep_first,
    lay,
    lay_sized,
    lay_with_own,
    remove_owned,
    remove_variant,
    with_owned,
    with_tank,
)
from isotherma.core.editing.wishes import add_wish, judge, remove_wish

__all__ = [
    "acknowledge",
    "add_day_kind",
    "add_draw",
    "add_owned",
    "add_part",
    "add_piece",
    "add_run",
    "add_stop",
    "add_use",
    "add_wish",
    "cap_port",
    "choose_rules",
    "copy_system",
    "duplicate_variant",
    "fit_part",
    "fresh_id",
    "goes_in_line",
    "insert_part",
    "join",
    "judge",
    "keep_examples",
    "keep_first",
    "keep_price",
    "lay",
    "lay_sized",
    "lay_with_own",
    "measure_run",
    "move_part",
    "new_part",
    "place_diverter",
    "plan_hole",
    "plan_stop",
    "price_kept",
    "put_part",
    "remove_day_kind",
    "remove_draw",
    "remove_owned",
    "remove_part",
    "remove_piece",
    "remove_stop",
    "remove_use",
    "remove_variant",
    "remove_wish",
    "repeat_draw",
    "replace_part",
    "say_state",
    "set_end",
    "set_place",
    "set_position",
    "set_trip",
    "set_values",
    "take_back",
    "touched",
    "value_at",
    "with_owned",
    "with_runs",
    "with_system",
    "with_tank",
]
