"""The network of a project's objects: what each road hangs on, what hangs on it, and in which order they are computed.

Rows are read in a handful of queries, however many roads there are, and kept by the project's head: the count of acts that
have changed it. A trial is the network with one road changed (``with_road``).
"""

from __future__ import annotations

import threading
from collections import OrderedDict, defaultdict
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field, replace
from typing import Any

from django.db import transaction
from django.db.models.signals import post_save

from ivoryridge.core.alignment.horizontal import PI
from ivoryridge.core.corridor.varied import Side
from ivoryridge.core.errors import InputError
from ivoryridge.core.junction.corner import CornerShape
from ivoryridge.core.junction.meeting import Arm
from ivoryridge.core.section.template import Template as BuiltTemplate

from ..models import Junction, Project, Road, RoadPI, RoadPVI, Row, Surface, Template, Variation
from ..objects import Ref, template_refers, variation_refers
from ..refusals import NotThere
from .road import ArmOf, Joined, JunctionInputs, Parallel, ReturnOf, RoadInputs, Tie, VariedRow, held_end, pvi_from_row
from .sections import Stock, placed_parts, surfaces_named, template_from_row
from .standards import standards_stamp
from .surface import SourceRow, SurfaceRecipe, assemble_surfaces, source_rows

__all__ = [
    "Link",
    "Network",
    "assemble_road",
    "inside_act",
    "network_of",
    "planned_road",
    "read_network",
]

MOST_KEPT = 16  # projects


@dataclass(frozen=True, slots=True)
class Link:
    """A road hangs on another: ``how`` is "parallel", "follow", the "start" or "end" that is tied, "arm" for the main road of a junction
    where it is the side road, "main" or "side" for the roads of the junction whose corner it is; station and offset in m."""

    how: str
    road: int
    station: float = 0.0
    level: str = ""
    offset: float = 0.0
    against: bool = False
    junction: int = 0


@dataclass(frozen=True)
class Network:
    """A project's surfaces and roads by id. ``own``: roads as their rows say, without those they hang on; ``links``: road ->
    what it hangs on; ``gone``: names of roads that are not there any more, for words."""

    surfaces: Mapping[int, SurfaceRecipe]
    own: Mapping[int, RoadInputs]
    links: Mapping[int, tuple[Link, ...]]
    gone: Mapping[int, str] = field(default_factory=dict)
    built_with: Mapping[int, frozenset[Ref]] = field(
        default_factory=dict
    )  # road -> its templates, and what its changed parts name
    named: Mapping[int, frozenset[Ref]] = field(default_factory=dict)  # template -> the parts, structures and surfaces it names
    junctions: Mapping[int, JunctionInputs] = field(default_factory=dict)
    _linked: dict[int, RoadInputs] = field(default_factory=dict, compare=False)
    _whole: dict[int, RoadInputs] = field(default_factory=dict, compare=False)

    def road(self, pk: int) -> RoadInputs:
        """A road with all that it hangs on, and the junctions that take over parts of it. A link to what is gone, or a circle, makes it
        ``broken``; others stay whole.

        Raises NotThere for a road that has been deleted.
        """
        if pk not in self._whole:
            linked = self._alone(pk)
            both_there = ((k, j) for k, j in sorted(self.junctions.items()) if j.main in self.own and j.side in self.own)
            cut_by = tuple(self.junction(k) for k, j in both_there if pk in (j.main, j.side))
            self._whole[pk] = replace(linked, junctions=cut_by) if cut_by else linked
        return self._whole[pk]

    def _alone(self, pk: int) -> RoadInputs:
        """A road as it is without its junctions."""
        if pk not in self.own:
            raise NotThere(
                "no-such-road", "This road is not there any more; somebody has deleted it. Undo brings it back if it was you."
            )
        return self._road(pk, ())

    def _road(self, pk: int, behind: tuple[int, ...]) -> RoadInputs:
        if pk in self._linked:
            return self._linked[pk]
        road, links = self.own[pk], self.links.get(pk, ())
        broken = self._why_broken(pk, links, behind)
        if broken is not None:
            linked = replace(road, broken=broken)
        else:
            others = {x: self._road(x.road, (*behind, pk)) for x in links}
            parallel = next((Parallel(o, x.offset, x.against) for x, o in others.items() if x.how == "parallel"), None)
            ties = {x.how: Tie(o, x.station, x.level) for x, o in others.items() if x.how in ("start", "end")}
            followed = {x.road: o for x, o in others.items() if x.how == "follow"}
            joins = [(self.junctions[x.junction], o) for x, o in others.items() if x.how == "arm"]
            arms = tuple(ArmOf(o, j.place, j.run_out, j.edge_fall) for j, o in joins)
            linked = (
                replace(road, parallel=parallel, ties=ties, followed=followed, arms=arms, return_of=self._return_of(pk, others))
                if links
                else road
            )
        if broken is None or broken.code != "roads-in-a-circle":  # what a circle says depends on where one comes from
            self._linked[pk] = linked
        return linked

    def junction(self, pk: int) -> Joined:
        """A junction with all its roads, as they are without what it takes over. Raises NotThere for one that has been deleted."""
        if pk not in self.junctions:
            raise NotThere(
                "no-such-junction", "This junction is not there any more; somebody has deleted it. Undo brings it back."
            )
        j = self.junctions[pk]
        corners = {(arm, hand): self._alone(r) for r, (arm, hand, _) in j.returns.items()}
        return Joined(pk, j, self._alone(j.main), self._alone(j.side), corners)

    def _return_of(self, pk: int, others: Mapping[Link, RoadInputs]) -> ReturnOf | None:
        of = {x.how: (x.junction, o) for x, o in others.items() if x.how in ("main", "side")}
        if not of:
            return None
        junction = self.junctions[of["main"][0]]
        return ReturnOf(of["main"][1], of["side"][1], junction.place, *junction.returns[pk])

    def _why_broken(self, pk: int, links: tuple[Link, ...], behind: tuple[int, ...]) -> InputError | None:
        if pk in behind:
            return self.circle((*behind[behind.index(pk) :], pk))
        for x in links:
            if x.road not in self.own:
                return InputError("hangs-on-gone", road=self.own[pk].name, other=self.gone.get(x.road, "a road"))
        return None

    def circle(self, roads: Iterable[int]) -> InputError:
        return InputError("roads-in-a-circle", roads=" on ".join(self.own[i].name for i in roads))

    def hanging_on(self, pk: int) -> list[int]:
        """Roads that hang on this one, over others too, each after all that it hangs on itself."""
        into = defaultdict(list)
        for road, links in self.links.items():
            for x in links:
                into[x.road].append(road)
        out: list[int] = []
        done: set[int] = {pk}

        def visit(at: int) -> None:
            for road in sorted(set(into[at])):
                if road not in done:
                    done.add(road)
                    visit(road)
                    out.append(road)

        visit(pk)
        return out[::-1]

    def with_road(self, changed: RoadInputs) -> Network:
        """A trial: this network with one road's own fields as given; its links stay."""
        bare = replace(changed, parallel=None, ties={}, followed={}, arms=(), return_of=None, junctions=(), broken=None)
        own = {**self.own, changed.road_id: bare}
        return replace(self, own=own, _linked={}, _whole={})


# --- reading -------------------------------------------------------------------------------------------------
_kept: OrderedDict[int, tuple[tuple[Any, ...], Network]] = OrderedDict()
_lock = threading.Lock()
_of_act: ContextVar[dict[Any, Any] | None] = ContextVar("of_act", default=None)
_saves = 0  # rows saved so far, by anybody in this process


@contextmanager
def inside_act() -> Iterator[None]:
    """In here, inside a transaction that nobody else can write beside, a network is read once and again after rows are saved."""
    token = _of_act.set({})
    try:
        yield
    finally:
        _of_act.reset(token)


def network_of(project_id: int) -> Network:
    """The network as it is now: inside a transaction as its rows are there, else the one kept for the project's head."""
    own = _of_act.get()
    if own is not None:
        if project_id not in own:
            with _lock:
                kept = _kept.get(project_id)
            still = kept is not None and "saved" not in own and kept[0] == _head(project_id)
            own[project_id] = kept[1] if kept is not None and still else read_network(project_id)
        return own[project_id]
    if transaction.get_connection().in_atomic_block:
        return read_network(project_id)
    while True:
        head = _head(project_id)
        with _lock:
            kept = _kept.get(project_id)
            if kept and kept[0] == head:
                _kept.move_to_end(project_id)
                return kept[1]
        network = read_network(project_id)
        if _head(project_id) == head:  # nobody changed anything between the queries
            _keep(project_id, head, network)
            return network


def leave(project_id: int, network: Network) -> None:
    """At the end of an act: what it leaves, read after its last row, is there for whoever asks next, unless the act is undone after all
    or a row is saved before it is kept."""
    saves = _saves

    def keep() -> None:
        head = _head(project_id)
        if _saves == saves:
            _keep(project_id, head, network)

    transaction.on_commit(keep)


def _keep(project_id: int, head: tuple[Any, ...], network: Network) -> None:
    with _lock:
        _kept[project_id] = (head, network)
        _kept.move_to_end(project_id)
        while len(_kept) > MOST_KEPT:
            _kept.popitem(last=False)


def _head(project_id: int) -> tuple[Any, ...]:
    """The count of acts, and the standards at hand: what is found once for a road may hang on either."""
    return Project.objects.values_list("head", flat=True).get(pk=project_id), standards_stamp()


def _row_saved(sender: type, **_: Any) -> None:
    """Rows written outside an act, e.g. by a script, move no head; what this process keeps is read anew."""
    global _saves
    if not issubclass(sender, Row):
        return
    with _lock:
        _saves += 1
    own = _of_act.get()
    if own is not None:
        own.clear()
        own["saved"] = True
        return
    with _lock:
        _kept.clear()


post_save.connect(_row_saved)


def assemble_road(road: Road) -> RoadInputs:
    """A road with all that it hangs on, as its rows are now."""
    return network_of(road.project_id).road(road.pk)


def planned_road(road: Road, pis: list[RoadPI]) -> RoadInputs:
    """A road that is not saved yet, over its project's ground; without profile and template."""
    return _own_road(road, road.project, pis, [], [], {}, network_of(road.project_id).surfaces, Stock.of(road.project_id), {})


def read_network(project_id: int) -> Network:
    project = Project.objects.get(pk=project_id)
    surfaces = assemble_surfaces(project_id, Surface.present.filter(project_id=project_id))
    templates = {t.pk: t for t in Template.present.filter(project_id=project_id)}
    stock = Stock.of(project_id)
    pis: dict[int, list[RoadPI]] = defaultdict(list)
    for pi in RoadPI.present.filter(road__project_id=project_id, road__removed=False):
        pis[pi.road_id].append(pi)
    pvis: dict[tuple[int, str], list[RoadPVI]] = defaultdict(list)
    for pvi in RoadPVI.present.filter(road__project_id=project_id, road__removed=False):
        pvis[pvi.road_id, pvi.candidate].append(pvi)
    varied: dict[int, list[Variation]] = defaultdict(list)
    for row in Variation.present.filter(road__project_id=project_id, road__removed=False):
        varied[row.road_id].append(row)
    led_by = {v.data["survey"] for rows in varied.values() for v in rows if v.kind == "led" and v.data.get("survey")}
    received = source_rows(project_id, led_by | ({project.land["survey"]} if project.land.get("survey") else set()))
    roads = list(Road.objects.filter(project_id=project_id))
    junctions = _junctions(project_id, roads, stock)
    own = {
        r.pk: _own_road(
            r,
            project,
            pis[r.pk],
            pvis[r.pk, r.candidate],
            varied[r.pk],
            templates,
            surfaces,
            stock,
            received,
        )
        for r in roads
        if not r.removed
    }
    links = {r.pk: found for r in roads if not r.removed and (found := _links(r, varied[r.pk], junctions))}
    gone = {r.pk: r.name for r in roads if r.removed}
    named = {pk: frozenset(template_refers(t)) for pk, t in templates.items()}
    built_with = {
        r.pk: frozenset([("template", r.template_id)] if r.template_id else []).union(
            *(variation_refers(v) for v in varied[r.pk]),
            (("junction", pk) for pk, j in junctions.items() if r.pk == j.side or r.pk in j.returns),
        )
        for r in roads
    }
    return Network(surfaces, own, links, gone, built_with, named, junctions)


def _junctions(project_id: int, roads: Iterable[Road], stock: Stock) -> dict[int, JunctionInputs]:
    returns: dict[int, dict[int, tuple[Arm, Side, CornerShape]]] = defaultdict(dict)
    for r in roads:
        if not r.removed and r.course.get("kind") == "return":
            returns[r.course["junction"]][r.pk] = (r.course["arm"], r.course["hand"], CornerShape(**r.course["shape"]))
    return {
        j.pk: JunctionInputs(
            name=j.name,
            main=j.main_id,
            side=j.side_id,
            place=(j.easting, j.northing),
            run_out=j.run_out,
            revision=j.revision,
            returns=returns[j.pk],
            structure=j.structure,
            own_structure=stock.structures.get(j.structure),
            edge_fall=j.edge_fall,
        )
        for j in Junction.present.filter(project_id=project_id)
    }


def _links(road: Road, varied: list[Variation], junctions: Mapping[int, JunctionInputs]) -> tuple[Link, ...]:
    out = [Link(end, t["road"], float(t["station"]), t.get("level", "")) for end, t in sorted(road.ties.items())]
    if road.course.get("kind") == "offset":
        c = road.course
        out.append(Link("parallel", c["road"], offset=float(c["offset"]), against=bool(c.get("against"))))
    if road.course.get("kind") == "return" and (j := junctions.get(road.course["junction"])):
        out += [Link(how, pk, junction=road.course["junction"]) for how, pk in (("main", j.main), ("side", j.side))]
    out += [Link("arm", j.main, junction=pk) for pk, j in junctions.items() if j.side == road.pk]
    out += [Link("follow", pk) for pk in sorted({v.data["road"] for v in varied if v.data.get("road")})]
    return tuple(out)


def _own_road(
    road: Road, project: Project, rows: list[RoadPI], pvis: list[RoadPVI], varied: list[Variation],
    templates: Mapping[int, Template], surfaces: Mapping[int, SurfaceRecipe], stock: Stock, received: Mapping[int, SourceRow],
) -> RoadInputs:  # fmt: skip
    index = {r.pk: i for i, r in enumerate(rows)}
    course = road.course
    built, fault = None, None
    along: tuple[VariedRow, ...] = ()
    beside: dict[str, SurfaceRecipe] = {}
    try:
        used = [(road.template_id, False), *((v.template_id, bool(v.data.get("turned"))) for v in varied)]
        known = {
            (pk, turned): template_from_row(templates[pk], stock, mirrored=road.mirrored != turned)
            for pk, turned in dict.fromkeys(used)
            if pk and pk in templates
        }
        built = known.get((road.template_id or 0, False))
        along = tuple(_varied(v, known, stock, index) for v in varied)
        placed = [p for t in known.values() for p in (*t.left, *t.right)] + [v.placed for v in along if v.placed]
        beside = surfaces_named(placed, surfaces)
    except InputError as error:  # the road is told so; all others stand
        built, fault = None, error
    return RoadInputs(
        road_id=road.pk,
        name=road.name,
        start_station=road.start_station,
        interval=road.interval,
        pis=tuple(PI(r.easting, r.northing, r.radius, r.spiral_in, r.spiral_out) for r in rows),
        pi_rows=tuple((r.pk, r.revision) for r in rows),
        pvis=tuple(pvi_from_row(r, index) for r in pvis),
        template=built,
        template_fault=fault,
        varied=along,
        beside=beside,
        received={
            pk: received[pk] for pk in (project.land.get("survey"), *(v.data.get("survey") for v in varied)) if pk in received
        },
        led_on={pk: surfaces[pk] for pk in (v.data.get("surface") for v in varied) if pk in surfaces and surfaces[pk].sources},
        land=project.land,
        surface=surfaces.get(road.surface_id or 0),
        design_speed=project.design_speed,
        greatest_grade=project.greatest_grade,
        least_k=project.least_k,
        standard=project.standard,
        speeds=tuple((float(s), float(v)) for s, v in road.speeds),
        departures=road.departures,
        guides=tuple(road.guides),
        crossfall=road.crossfall,
        held_pis=frozenset(r.pk for r in rows if r.held),
        held_straights=frozenset(r.pk for r in rows if r.straight_held),
        elements=tuple(tuple(e) for e in course["elements"]) if course.get("kind") == "elements" else (),
        existing=tuple((float(e), float(n)) for e, n in course["points"]) if course.get("kind") == "existing" else (),
        mirrored=road.mirrored,
        sight_clearance=road.sight_clearance,
        fineness=road.fineness,
        traffic_side=project.traffic_side,
        equations=tuple((float(s), float(j)) for s, j in road.equations),
        fixed_points=tuple(road.fixed_points),
    )


def _varied(
    v: Variation, templates: Mapping[tuple[int, bool], BuiltTemplate], stock: Stock, index: Mapping[int, int]
) -> VariedRow:
    placed = None
    if v.kind == "change" and v.data.get("with") is not None:
        row = {"id": v.data.get("id") or "part", "part": v.data["with"], "values": v.data.get("values", {})}
        (placed,) = placed_parts([row], stock, "this road")
    return VariedRow(
        v.pk, v.revision, v.kind, v.side, held_end(v.start, index, v.pk), held_end(v.end, index, v.pk), v.data,
        templates.get((v.template_id or 0, bool(v.data.get("turned")))), v.template_id, placed,
    )  # fmt: skip
