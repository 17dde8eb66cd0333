"""The network as text: an open solver reads it and finds the flows we say."""

from __future__ import annotations

import pytest
from wntr.epanet import toolkit

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.errors import CoreError
from isotherma.core.system.kinds.use import Outlet
from isotherma.files.network_text import DENSITY, network_text
from isotherma.services.flows import Asked, solve_flows

FLOW = 8  # what the solver calls a link's flow
WITHIN = 0.02
SOLVED = sorted(layouts())


def project_of(name):
    demos = {"folio": folio, "drover": drover, "curlew": curlew}
    return demos[name]() if name in demos else layouts()[name].project()


def refereed(text, folder):
    """Give the flow of every link as the open solver finds it [L/min]."""
    path = folder / "network.inp"
    path.write_text(text, encoding="ascii")
    solver = toolkit.ENepanet()
    solver.ENopen(str(path), str(folder / "report.txt"), str(folder / "out.bin"))
    solver.ENopenH()
    solver.ENinitH(0)
    solver.ENrunH()
    rows = [line.split(";")[0].split() for line in text.splitlines()]
    names = {row[0] for row in rows if row and row[0][0] == "l" and row[0][1:].isdecimal()}
    flows = {int(name[1:]): solver.ENgetlinkvalue(solver.ENgetlinkindex(name), FLOW)
             for name in names}  # fmt: skip
    solver.ENcloseH()
    solver.ENclose()
    return flows


@pytest.mark.parametrize("name", [*SOLVED, "folio", "drover", "curlew"])
def test_an_open_solver_agrees(name, tmp_path):
    project = project_of(name)
    variant = project.variants[0]
    outlets = [part.id for part in variant.built.system.parts if isinstance(part, Outlet)]
    solved = 0
    for outlet in outlets[:2]:
        try:
            point = solve_flows(project, variant, variant.standing,
                                Asked(opens={outlet: 1.0})).point.solved  # fmt: skip
        except CoreError:
            continue
        flows = refereed(network_text(point, title=project.name), tmp_path)
        ours = {index: point.through(index) * float(point.density[index]) / DENSITY * 6e4
                for index in flows}  # fmt: skip
        for wide, regulated in point.network.valves.reducer:  # written as one valve
            if int(wide) in ours:
                ours[int(wide)] += point.through(int(regulated)) * 6e4
        most = max(abs(flow) for flow in ours.values())
        assert most > 0.1 and flows
        solved += 1
        for index, flow in flows.items():
            label = point.network.links[index].label
            assert flow == pytest.approx(ours[index], rel=WITHIN, abs=WITHIN * most), label
    assert solved


def test_what_is_open_and_what_is_what_is_said():
    project = drover()
    variant = project.variants[0]
    point = solve_flows(project, variant, None, Asked(opens={"head": 0.5})).point.solved
    text = network_text(point, title="Dröver [x]; y")
    assert text.splitlines()[1] == "Dr-ver -x-- y" and "; open: head" in text
    sections = [line for line in text.splitlines() if line.startswith("[")]
    assert sections == ["[TITLE]", "[JUNCTIONS]", "[RESERVOIRS]", "[TANKS]", "[PIPES]", "[PUMPS]",
                        "[VALVES]", "[DEMANDS]", "[STATUS]", "[CURVES]", "[OPTIONS]", "[TIMES]",
                        "[END]"]  # fmt: skip
    assert "pump.inlet" in text and text.isascii()


def test_a_tank_whose_sides_are_known_is_a_tank(tmp_path):
    project = drover()
    variant = project.variants[0]
    sides = {"inside_length_m": 0.8, "inside_width_m": 0.5, "inside_height_m": 0.3}
    parts = tuple(part.model_copy(update=sides) if part.id == "tank" else part
                  for part in variant.system.parts)  # fmt: skip
    system = variant.system.model_copy(update={"parts": parts})
    tanked = variant.model_copy(update={"system": system})
    point = solve_flows(project, tanked, None, Asked(opens={"head": 1.0})).point.solved
    text = network_text(point, title="x")
    tanks = text.split("[TANKS]\n")[1].split("\n[")[0].strip().splitlines()
    assert len(tanks) == 1 and float(tanks[0].split()[4]) == pytest.approx(0.3)
    most = max(point.through(index) for index in range(len(point.shut))) * 6e4
    assert max(refereed(text, tmp_path).values()) == pytest.approx(most, rel=WITHIN)


def test_nothing_open_is_a_network_too(tmp_path):
    project = drover()
    point = solve_flows(project, project.variants[0], None, Asked()).point.solved
    text = network_text(point, title="x")
    assert "; open: nothing" in text
    assert all(abs(flow) < 0.01 for flow in refereed(text, tmp_path).values())
