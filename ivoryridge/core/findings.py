"""Findings: what is allowed but doubtful, reported beside the result while the work goes on."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any, Literal

from .wording import say

__all__ = ["FINDING_SENTENCES", "Finding", "Severity"]

Severity = Literal["note", "doubt", "fault"]

_RANGE = re.compile(r"([Ff])rom (\{start:ch\.\d\}) to \{end:ch\.\d\}")
_THERE = re.compile(r" \(?at \{at:ch\.\d\}\)?")
_ONE_PLACE = 0.005  # m: a range that is told as one place

FINDING_SENTENCES: dict[str, str] = {
    "piece-step": "{piece} meets what lies above it in priority with a step of {step:.0f} mm. Bring their levels together there.",
    "patch-hollow": "Water stands in {junction}, {depth:.0f} mm deep over {area:m2.1}. Change the levels of a return or of the side road.",
    "junction-sight": "Waiting on {side} a driver sees {seen:m.0} to the {hand}, {needed:m.0} are asked for: {by} stands {amount:m.2} into "
    "his view. Clear or lower it, or move the junction.",
    "edge-rough": "The ground along {road} lies up to {off:.0f} mm off the straight line that the return takes its level and grade from; "
    "{limit:.0f} mm is usual. Measure the edge there again, or pin the return's levels.",
    "edge-uneven": "Behind the edge of {road} the ground lies up to {off:.0f} mm off the plane from which the side road turns to its own "
    "fall; {limit:.0f} mm is usual. Type the fall of {road} to its edge.",
    "side-steep": "{road} comes to the main road with up to {grade:.1f} % in its first {over:m.0}; {limit:.1f} % is the most. Lay its "
    "profile flatter there.",
    "side-break": "At the main road's edge the fall of its lanes and the grade of {road} break by {break:.1f} %; {limit:.1f} % is "
    "the most. Let {road} leave with another grade.",
    "return-steep": "The return falls or rises by up to {grade:.1f} % from {start:ch.2} to {end:ch.2}; {limit:.1f} % is the most. A larger "
    "radius or another grade of the side road eases it.",
    "return-flat": "The return is flatter than {limit:.1f} % from {start:ch.2} to {end:ch.2}, so water stands in its channel; up to "
    "{over:m.0} that is usual. Change its levels, or the grade of a road.",
    "return-sharp": "The vertical curve of the return at {at:ch.2} has a K of {k:m.2}; {limit:m.2} is the least. A larger radius "
    "lengthens it.",
    "return-step": "The levels of this return are pinned, and {road} has moved: at {at:ch.2} it lies {step:.0f} mm {way} its edge. Let "
    "its levels follow again, or set them by hand.",
    "points-duplicate": "{count} points lie at the same place as another one and were taken once.",
    "points-duplicate-levels": "{count} points lie at the place of another one with a different level, at most {greatest:m.3} apart; the "
    "first one was kept.",
    "breaklines-cross-levels": "Two breaklines cross at E {easting:bare.2} N {northing:bare.2} with levels {difference:m.3} apart (limit "
    "{limit:m.3}); the level of the first one was taken.",
    "breakline-short": "Breakline {name} has fewer than 2 different points and was left out.",
    "points-outside": "{count} points were left out because a coordinate is not a number; the first is in line {line}.",
    "line-unread": "Line {line} was left out: {reason}.",
    "lines-unread": "{count} lines were left out because they could not be read: {told}.",
    "columns-guessed": "The columns were taken in their usual order, since {why}. Check which one is easting, northing and level.",
    "lines-before-header": "What stands above the column titles in line {line} was left out.",
    "looks-like-degrees": "The coordinates run from {e0:.5f} to {e1:.5f} and {n0:.5f} to {n1:.5f}: these look like degrees of longitude "
    "and latitude. A surface needs metres; change them to the project's grid first.",
    "names-twice": "{count} point names are given to several points: {told}.",
    "level-none": "{count} points have the level {told}, which programs write where there is none; they come in without a level.",
    "comma-groups": "All numbers are written like {example}. That was read as a decimal comma; if it parts thousands, take the decimal "
    "comma away.",
    "axes-swapped": "Easting and northing look swapped: the columns are named, or lie, the other way round. Check the order.",
    "flat-file": "All {count} points have the same level {elevation:bare.3}. Check the level column.",
    "levels-spread": "The levels run from {least:bare.2} to {greatest:bare.2}, {spread:m.0} apart. Check for zero levels and spikes.",
    "far-from-project": "The file lies {distance:km.0} away from what the project already holds. Check the coordinate reference and the "
    "order of the axes.",
    "misplaced": "The file lies {distance:km.0} away from what the project already holds. It would lie on the site if {cause}.",
    "coordinates-large": "Coordinates reach {value:.0f}; no grid in metres counts so far. They may be in millimetres.",
    "points-beyond": "{count} points lie so far from all others that they cannot be ground, and were left out: {told}.",
    "lines-beyond": "{count} lines lie so far from all else that they cannot be ground, and were left out.",
    "levels-beyond": "{count} levels are more than {limit:m.0} above or below the datum and were taken as none.",
    "surfaces-over": "The file holds {count} surfaces, and {first} lies over {second}. Each comes in as a surface of its own unless you "
    "say that they are one ground.",
    "units-converted": "The file gives lengths in {unit}; they were converted to metres.",
    "level-unit-differs": "The file gives plan in {unit} and levels in {other}. All were converted as {unit}; check the levels.",
    "decimal-commas": "{count} numbers are written with a decimal comma and were read so.",
    "surface-holds-nothing": "Surface {surface} holds nothing that is brought in here.",
    "ids-repeated": "In surface {surface} {count} point ids are given again at the same place ({ids}); each was taken once.",
    "ids-twice": "In surface {surface} {count} point ids stand for two different places ({ids}). The first place was taken for each; "
    "faces at them may be wrong. Ask for the file again.",
    "faces-far": "{count} faces of {surface} have a corner more than {limit:km.0} from the middle of the others and were left out.",
    "faces-without-area": "{count} faces of {surface} have no area in plan and were left out.",
    "faces-doubled": "{count} faces of {surface} are given twice; each was taken once.",
    "faces-doubled-levels": "{count} of the faces of {surface} that are given twice have other levels the second time; the first ones "
    "were taken.",
    "faces-overlap": "Faces of {surface} lie over each other on {area:m2.1}, most of it at E {easting:bare.2} N {northing:bare.2}. "
    "{count} faces that lie over earlier ones were left out; look at the place for holes.",
    "faces-unchecked": "{surface} is no surface but many single faces, too many to hold against each other. Volumes are right only if "
    "none lies over another.",
    "without-level": "{count} {what} of surface {surface} have no level and were left out.",
    "lines-short": "{count} breaklines of surface {surface} have fewer than 2 points and were left out.",
    "alignment-empty": "{name} holds no geometry of a line.",
    "alignment-refused": "The line {name} is not taken: {reason}",
    "element-kink": "{name} turns by {value:.3f}° at {station:ch.3}, where element {number} begins, without a curve.",
    "element-kinks": "{name} turns without a curve between elements in {count} more places, at most by {value:.3f}°.",
    "elements-without-length": "{count} elements of {name} have no length and were left out.",
    "line-of-straights": "Element {number} of {name} is a row of points; it is kept as {count} straights.",
    "spiral-in-pieces": "Spiral {number} of {name} is of the type {type}; it is kept as {count} short pieces whose ends lie on it.",
    "profile-left-out": "The profile of {name} holds '{what}', which is not read; levels there may be wrong.",
    "fit-radius": "Bend {bend}: the points tell its radius of {radius:m.1} only to within {amount:m.1}. More points on it would tell it "
    "better.",
    "fit-follows": "Bend {bend}: the points scatter by {amount:m.3} about it, more than elsewhere. It may be of another shape.",
    "fit-straight": "From {start:bare.0} to {end:m.0} the points scatter by {amount:m.3} about a straight, more than elsewhere. There "
    "may be a bend.",
    "fit-away": "From {start:bare.0} to {end:m.0} {amount:.0f} points in a row lie far off the line. Its shape there may be one that is "
    "not laid through, such as a loop.",
    "fit-points": "Bend {bend}: only {amount:.0f} points lie on it, so its radius of {radius:m.1} is hardly known.",
    "circle-kept": "The vertical curve at {station:ch.2} of {name} is circular and kept so.",
    "circle-length-differs": "The circular curve at {station:ch.2} of {name} is given {given:m.3} long; its radius of {radius:m.2} makes "
    "{value:m.3}, which was taken.",
    "equation-left-out": "A station equation of {name} is not complete and was left out; chainages beyond it read wrong.",
    "definition-missing": "Surface {surface} has no triangles of its own; they are made from its points and breaklines.",
    "lines-not-offered": "The drawing has {count} lines; the {limit} longest are offered. Export only the layer of the lines that are "
    "meant.",
    "left-out": "{count} × {what} were left out: this program does not bring them in here.",
    "faces-invisible": "{count} faces of surface {surface} are marked invisible and were left out.",
    "units-unsaid": "The drawing does not say its unit; metres were taken.",
    "layers-hidden": "{count} objects on layers that are off or frozen were left out: {told}. Switch them on in the drawing to bring "
    "them in.",
    "levels-unread": "{count} blocks have an attribute for the level that tells no single number; they have the level they are inserted "
    "at.",
    "blocks-apart": "{count} blocks were taken apart into their objects; where each was inserted is a point filed under its block's name.",
    "curves-flattened": "{count} arcs, circles and splines became rows of points that stray at most {tolerance:m.g} from them.",
    "levels-as-text": "{count} texts are levels. They are offered as points of their own and wait unsorted; give them a role if they are "
    "measured.",
    "level-zero-throughout": "Everything in the drawing ({count} vertices) lies at level 0. It can be background, but no ground.",
    "dxf-errors": "The drawing has {count} faults of its own that were mended on reading, the first: {first}",
    "grid-no-value": "{count} cells of the grid have no level and were left out.",
    "las-no-ground": "No point is classified as ground, so all {count} points were taken. Vegetation and buildings may be among them.",
    "las-withheld": "{count} points are marked in the file as not to be used (withheld) and were left out.",
    "las-looked-at": "Only the first {count} of {total} points were looked at here; all are read when the file is brought in.",
    "las-to-thin": "{count} ground points; they are thinned to {tolerance:m.g} when they are brought in.",
    "las-thinned": "{kept} of {count} ground points are kept; no other lies more than {greatest:m.3} off their surface (limit "
    "{tolerance:m.g}).",
    "merge-covered": "Surface {number} lies wholly under those above it in priority and adds nothing.",
    "merge-step": "Where surface {number} meets what is above it in priority the level steps by at most {greatest:m.3}, {mean:m.3} on "
    "average.",
    "holes-filled": "{count} holes were filled, the greatest of {greatest:m2.1}.",
    "surface-pieces": "The surface is in {count} pieces: {told}.",
    "zero-level": "Point {point} has level {elevation:bare.3}, while the ground around lies near {near:bare.1}.",
    "spike": "Point {point} stands {height:m.2} {way} all its neighbours, at {slope:.0f} % or steeper on every side.",
    "isolated": "Point {point} is {distance:m.0} from the nearest other point; {usual:m.0} is usual here.",
    "duplicate-levels": "Points {first} and {second} lie at one place with levels {difference:m.3} apart.",
    "no-level": "{count} {what} have no level and are left out of the surface; the first is at E {easting:bare.2} N {northing:bare.2}.",
    "swapped": "Point {point} lies {distance:km.1} away; with easting and northing changed over it would lie on the site.",
    "far-point": "Point {point} lies {distance:km.1} away from the rest.",
    "contours-only": "{share:.0f} % of the triangles are flat: the ground is known from contours only there, and tops and bottoms are "
    "cut off.",
    "off-breakline": "Point {point} lies {plan:m.3} beside a breakline but {difference:m.3} {way} it (limit {limit:m.3}).",
    "surfaces-disagree": "{first} and {second} overlap on {area:ha.2} and differ by up to {greatest:m.3} there, {mean:m.3} on average.",
    "off-ground": "From {start:ch.2} to {end:ch.2} the road lies outside the surface; no ground is known there.",
    "not-met": "The {part} on the {side} does not meet the ground within its search distance from {start:ch.2} to {end:ch.2} ({count} "
    "sections).",
    "slope-under-ground": "The {part} on the {side} runs under the ground from {start:ch.2} to {end:ch.2}, at most {depth:m.2} deep, "
    "before it ends. Let it meet the ground at the first crossing there, or shorten its middle.",
    "crosses-itself": "The section on the {side} crosses itself from {start:ch.2} to {end:ch.2}.",
    "case-unknown": "From {start:ch.2} to {end:ch.2} the {part} on the {side} is not built: the ground is not known where its case asks "
    "for it. Give the surface more ground there, or fill its hole.",
    "nothing-built": "From {start:ch.2} to {end:ch.2} nothing is built: no stretch lies there, and the road has no template of its own.",
    "row-sleeps": "What is said of {part} from {start:ch.2} to {end:ch.2} has no effect: no template has that part there.",
    "row-beyond": "A range from {start:ch.2} to {end:ch.2} lies beyond the road, which runs from {road_start:ch.2} to "
    "{road_end:ch.2}.",
    "pavement-steps": "At {at:ch.2} the edge of the pavement on the {side} steps by {value:m.2} in plan and {rise:m.3} in level. Blend the "
    "stretches, or let the value change along its range.",
    "plane-ends": "From {start:ch.2} to {end:ch.2} {road}, whose plane is to be followed, does not reach so far; the road's own levels "
    "and crossfall hold there.",
    "laid-too-thin": "From {start:ch.2} to {end:ch.2} the {part} on the {side} would be too thin by up to {value:m.3} (at {at:ch.2}): "
    "the road that is there stands higher under it than may be taken off. Raise the profile, or allow more {what}.",
    "axis-of-halves": "The road is to turn about the {axis} edge of its carriageway, but it has a reserve: each half turns about the axis "
    "that its reserve names. Choose the centre for the road, and the axis with the reserve.",
    "met-no-ground": "The {end} of the road is to meet the ground, and none is known there; its own levels hold. Bring in ground that "
    "reaches a few metres beyond it.",
    "met-uneven": "The ground that the {end} of the road meets is uneven: it lies up to {value:m.3} off the straight line that fits it "
    "best. Look whether the road begins on the surface that you mean.",
    "met-no-grade": "The {end} of the road takes the level of the ground and not its grade: no PVI lies within the {length:m.2} over "
    "which it meets it. Add one.",
    "line-not-reached": "From {start:ch.2} to {end:ch.2} the {node} of the {part} on the {side} is to be led by a line, and none lies "
    "within its reach; its own place holds there. Widen the reach, or end the range sooner.",
    "land-passed": "The toe on the {side} passes the land boundary from {start:ch.2} to {end:ch.2}, by {value:m.2} at {at:ch.2}. "
    "Steepen the slope, put a wall there, or get the land.",
    "land-margin": "From {start:ch.2} to {end:ch.2} the toe on the {side} comes nearer to the land boundary than the margin, by "
    "{value:m.2} at {at:ch.2}.",
    "land-open": "The land boundary is not closed: {gap:m.2} lie between the ends of its line. Close it, or choose another layer.",
    "land-nowhere": "The layer of the land boundary has no line that bounds an area. Choose another layer.",
    "falls-differ": "From {start:ch.2} to {end:ch.2} the template's lanes fall by {value:.1f} % on the {side}; the road's crossfall "
    "turns from {limit:.1f} %, and that is built.",
    "part-check": "{part}, {side}: {check} is {value:m.2}; at least {least:m.2} is wanted.",
    "layer-implausible": "{part}, {side}: {material} is {value:m.3} thick; plausible is {least:m.3} to {greatest:m.3}.",
    "toe-jumps": "The toe on the {side} jumps by {value:m.2} between {start:ch.2} and {end:ch.2}.",
    "sections-cross": "On the inside of the bend neighbouring sections cross on the {side} from {start:ch.2} to {end:ch.2}. Surfaces and "
    "edges end where they meet, {area:m2.0} of plan are left out, and volumes count every place once; stage 7 tells the difference to "
    "plain end areas.",
    "line-kink": "The line turns by {value:.2f}° at {name} without a curve.",
    "pi-in-line": "{name} lies in line with its neighbours (it turns by {value:.4f}°), so its radius of {radius:m.1} makes no curve.",
    "radius-least": "The radius at {name} is {value:m.1}; at {speed:kmh.0} the least is {limit:m.0}.",
    "radius-desirable": "The radius at {name} is {value:m.1}; at {speed:kmh.0} {limit:m.0} is desirable.",
    "transition-missing": "{name}: R {value:m.1} has no transition; below {limit:m.0} one of {length:m.0} is asked for at {speed:kmh.0}.",
    "transition-short": "The transition at {name} is {value:m.1} long; at {speed:kmh.0} it needs {limit:m.1}.",
    "transition-long": "The transition at {name} is {value:m.1} long; more than {limit:m.1} hides how sharp the bend becomes.",
    "curve-short": "The bend at {name} is {value:m.1} long; {limit:m.0} is the least at {speed:kmh.0}.",
    "compound-ratio": "The radii at {name} stand in a ratio of {value:.2f} : 1; at most {limit:.2f} : 1.",
    "broken-back": "Between {name} lie only {value:m.1} of straight, and both bend one way; {limit:m.0} reads as two bends.",
    "grade-steep": "From {name} the grade is {value:.2f} %; the greatest is {limit:.2f} %.",
    "grade-flat": "From {name} the grade is {value:.2f} %; {limit:.2f} % drains a kerbed road.",
    "k-least": "The {word} at {name} has K {value:k.1}; at {speed:kmh.0} the least is {limit:k.g}.",
    "k-desirable": "The {word} at {name} has K {value:k.1}; at {speed:kmh.0} {limit:k.g} is desirable.",
    "vertical-short": "The vertical curve at {name} is {value:m.1} long; {limit:m.1} is the least at {speed:kmh.0}.",
    "bend-behind-crest": "The bend at {name} starts {value:m.0} from the top of a crest at {top:ch.0}; within {limit:m.0} a driver does "
    "not see it in time.",
    "broken-grade": "Two {word}, {name}, are joined by a grade of {value:m.0} only; under {limit:m.0} it looks broken.",
    "bend-on-long-curve": "The bend at {name} is {value:m.0} long on a vertical curve of {length:m.0} at PVI {pvi}; under {limit:m.0} it "
    "looks like a kink.",
    "fixed-missed": "The profile is at {value:m.3} where it should {word} {name}, {limit:m.3}: {off:m.3} off.",
    "reverse-straight": "The straight between {name} is {value:m.1} long; to turn the crossfall from one bend to the other {limit:m.1} "
    "are needed.",
    "crossfall-low": "The crossfall at {name} is {value:.1f} %; at {speed:kmh.0} the standard asks for {limit:.1f} %.",
    "crossfall-high": "The crossfall at {name} is {value:.1f} %; the greatest is {limit:.1f} %.",
    "crossfall-fast": "From {start:ch.0} to {end:ch.0} {name} turns too fast: its edge runs {value:.2f} % against the axis; the "
    "greatest is {limit:.2f} %.",
    "crossfall-flat": "From {start:ch.0} to {end:ch.0} {name} is nearly level: grade and crossfall together are {value:.2f} %; "
    "{limit:.2f} % lets water run off.",
    "sight-short": "From {start:ch.0} to {end:ch.0} a driver sees {value:m.0} {name}; at {speed:kmh.0} {limit:m.0} is needed to stop.",
    "drainage-k": "The {word} at {name} has K {value:k.0}; above {limit:k.0} water stands beside kerbs.",
    "labels-left-out": "Left out on sheet {sheet} for want of room: {told}.",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Finding:
    """One finding: severity, code, the numbers of its sentence, and the place (stations in m, or a point)."""

    severity: Severity
    code: str
    params: dict[str, Any] = field(default_factory=dict)
    station_from: float | None = None
    station_to: float | None = None
    place: tuple[float, float] | None = None

    @property
    def sentence(self) -> str:
        text = FINDING_SENTENCES[self.code]
        if "end" in self.params and "start" in self.params and abs(self.params["end"] - self.params["start"]) < _ONE_PLACE:
            text = _RANGE.sub(lambda m: f"{'At' if m[1] == 'F' else 'at'} {m[2]}", _THERE.sub("", text))
        return say(text, self.params)

    def as_dict(self) -> dict[str, Any]:
        return {
            "severity": self.severity,
            "code": self.code,
            "sentence": self.sentence,
            "station_from": self.station_from,
            "station_to": self.station_to,
            "place": list(self.place) if self.place else None,
        }
