"""Errors that reach a person as one clear sentence: what, where, value against limit, what helps.

An error carries a code and its numbers; the sentence is made in one table, ``SENTENCES``, so that wording is
kept in one place and a test can ask that every code has its sentence.
"""

from __future__ import annotations

from typing import Any

from .wording import say

__all__ = ["SENTENCES", "ConvergenceError", "FormatError", "InputError", "IvoryRidgeError", "NoSolutionError"]

SENTENCES: dict[str, str] = {
    # terrain
    "points-not-finite": "{count} of {total} points have a coordinate that is not a number, the first is point {first}. Leave them out "
    "or correct them in the file.",
    "too-few-points": "A surface needs at least 3 points at different places, {count} are there. Bring in more points.",
    "points-in-line": "All {count} points lie on one line, so no triangle can be made. Bring in points beside it.",
    "surface-empty": "The surface has no triangles, so there is no ground to read. Bring in survey points first.",
    "breakline-too-short": "Breakline {name} has only {count} different points; it needs at least 2.",
    "breakline-spacing": "A vertex every {spacing:m.g} would cut one breakline segment in {count} parts; at most {limit} are made. Use a "
    "greater spacing.",
    "nothing-in-reach": "Nothing of the file lies within {limit:km.0} of the grid's origin, where all grids of the world end. Check the "
    "columns and the unit.",
    "unknown-edit": "Edit {number} ('{what}') is not complete, or not one that a surface knows.",
    "edit-strung": "This line is strung through measured points by their code. Move or leave out its points, or give the code another "
    "role.",
    "edit-lost": "Edit {number} ({what}) names something that is not there any more. Undo it, or bring back what it changes.",
    "boundary-outside": "Nothing of the surface lies inside its boundary. Check the boundary, or take its role away.",
    "swap-outside": "There are no two triangles here whose common side could be turned. Point at a side inside the surface.",
    "swap-breakline": "This side is part of a breakline and stays. Leave the breakline out first, or turn another side.",
    "swap-not-convex": "The two triangles at this side make no convex four-corner, so the side cannot be turned.",
    # alignment
    "too-few-pis": "A line needs at least 2 points of intersection, {count} are there. Click another one on the plan.",
    "pis-coincide": "PI {first} and PI {second} lie at the same place ({distance:m.3} apart). Move or delete one of them.",
    "turns-back": "The line turns back on itself at PI {pi} (deflection {deflection:.1f}°), so no curve fits. Move the PI.",
    "line-too-long": "The line would be {length:km.0} long; at most {limit:km.0} are taken. Check the coordinates of its PIs.",
    "contours-too-many": "An interval of {interval:m.g} would make {count} levels of contours here; at most {limit} are made. Use at "
    "least {least:m.2}.",
    "spiral-too-long": "The curve at PI {pi} does not fit: its transitions turn {turned:.2f}°, the whole deflection is "
    "{deflection:.2f}°. Use transitions of together at most {limit:m.1}, or a greater radius.",
    "spiral-without-radius": "PI {pi} has a transition but no radius. Give a radius, or set the transitions to 0.",
    "tangents-overlap": "The curves at PI {first} and PI {second} overlap by {overlap:m.2}: they need {needed:m.2} of tangent, "
    "{there:m.2} is there. {advice}",
    "negative-value": "{what} at {where_} is {value:m.g}; it must not be negative.",
    "not-a-number": "{what} at {where_} is not a number. Type a value such as {example}.",
    "too-few-pvis": "A profile needs at least 2 PVIs, {count} are there. Add one, or fit the profile to the ground.",
    "pvis-out-of-order": "PVI {second} at {second_station:m.2} does not lie after PVI {first} at {first_station:m.2}. Give it a chainage "
    "above {first_station:m.2}.",
    "pvi-beyond-end": "PVI {pvi} at {station:ch.2} lies beyond PVI {held}, which the {end} of the line holds at {at:ch.2}. Give PVI "
    "{pvi} a chainage within the line, delete it, or let the line reach further.",
    "vertical-curves-overlap": "The vertical curves at PVI {first} and PVI {second} overlap by {overlap:m.2}. Shorten one of them: "
    "together they may take {there:m.2} of tangent, they take {needed:m.2}.",
    "curve-at-end": "PVI {pvi} is an end of the profile and cannot have a curve. Set its curve length to 0.",
    "station-outside": "Chainage {station:ch.3} is outside the line, which runs from {start:ch.3} to {end:ch.3}.",
    "no-ground-for-fit": "There is no ground under the line between {start:ch.1} and {end:ch.1}, so no profile can be fitted. Move the "
    "line onto the surface.",
    "point-off-curve": "No vertical curve at this PVI passes through the point ({station:bare.2}, {elevation:bare.3}); it must lie "
    "between the tangents and the PVI's angle.",
    "no-fit-under-limits": "No profile keeps all of this together: {named}. Let one of them give way, or move an end.",
    "anchor-lost": "A PVI hangs on the {point} of PI {pi}, which has no curve any more. Give the PI a radius, or anchor the PVI to its "
    "chainage first.",
    "no-such-radius": "No radius at PI {pi} gives this {what} with its transitions; use a {way} value, or a point between the tangents.",
    "no-room-for-curve": "There is no room for a curve at PI {pi}: {there:m.2} of tangent are free. Shorten its transitions, or use "
    "smaller radii beside it.",
    "pi-between-held": "PI {pi} lies between two held straights and cannot move without turning one of them. Let one of them go.",
    "held-square": "The held straight at PI {pi} has the same {what} everywhere. Type the other coordinate, or let the straight go.",
    "held-turned": "PI {pi} would pass PI {other} on the held straight, which would turn it round. Keep it on its side, or let the "
    "straight go.",
    "curve-at-an-end": "PI {pi} is an end of the line and has no curve.",
    "fit-too-few": "{count} points are too few for {what}; at least {least} at different places are needed.",
    "roads-in-a-circle": "{roads}: these lines hang on one another in a circle. Set one of them free, or untie it.",
    "hangs-on-gone": "{road} hangs on {other}, which was deleted. Untie it or set it free, or bring {other} back.",
    "tied-beyond": "The {end} is tied at {station:ch.2} of another road, which runs from {start:ch.2} to {last:ch.2} now. Untie it, or "
    "tie it to another place.",
    "edge-not-crossed": "The line does not leave {other} at its {end}: it crosses no edge of its lanes on all its {limit:m.0}. Follow "
    "its centre in level, or turn the line away from it.",
    "elements-unusable": "A line of {count} elements cannot be kept: it has none, or one without a length.",
    "elements-apart": "Element {second} begins {gap:m.3} away from the end of element {first}; {limit:m.2} is allowed. Mend the file, or "
    "fit a line through it.",
    "offset-beyond-centre": "An offset of {offset:m.2} reaches the centre of the bend of R {radius:m.1} at {station:m.1}; a parallel "
    "would turn back there. Use a smaller offset.",
    "no-pi": "The bend at {station:m.1} turns by half a circle or more, so no point of intersection stands for it. Keep its elements.",
    "fit-bends-changed": "What is held was said of {before} bends, and the points show {now} now. Release what is held and fit again.",
    "fit-ran-away": "No line of straights and bends could be laid through these {count} points. They may not lie along one line, or not "
    "in its order; choose a part of them.",
    "fit-no-line": "These {count} points scatter by {scatter:m.2} against their neighbours, so they do not lie along one line, or not in "
    "its order. Choose what was measured along the road.",
    "fit-turns-back": "Bend {bend} turns by {deflection:.0f} degrees, more than one curve can. Choose a part of the points.",
    "fit-in-line": "All {count} points lie in one line, so no circle goes through them. Fit a straight line.",
    "chainage-equation-back": "Chainage equation {number} is left at {back:m.3}, which is not beyond {least:m.3}, where counting began. "
    "Put it further on.",
    "guide-twice": "Two guide lines have the same name. Reload the page.",
    "guide-circle": "Guide line {name} would be parallel to itself by way of others. Choose another line.",
    "guide-parent": "The line that guide {name} is parallel to is not there. Choose another line.",
    "guide-incomplete": "Guide line {name} is not complete.",
    "guide-upright": "Both points of guide {name} stand at {station:m.2}, so it would be upright. Choose points at two chainages.",
    # standards
    "speed-beyond": "{name} have no values for {speed:kmh.0}; they reach {limit:kmh.0}. Choose a lower design speed or another standard.",
    "standard-unknown": "The standard '{name}' is not there any more. Choose another one in the project's settings.",
    "standard-broken": "The standard's data file {name} cannot be used: {reason}.",
    # template
    "template-circle": "The nodes {nodes} refer to each other in a circle, so none of them can be placed. Place one of them from another "
    "node.",
    "unknown-node": "The rule of node {node} refers to node {missing}, which this template does not have.",
    "unknown-parameter": "The expression '{expression}' uses '{missing}', which is not a parameter of part {part}.",
    "bad-expression": "The expression '{expression}' cannot be read: {reason}. Use numbers, parameters, + - * /, brackets, least, "
    "greatest, abs, and if ... then ... else.",
    "parameter-out-of-range": "{label} of {part} is {value}; it must lie between {least} and {greatest}.",
    "bad-rule": "The rule of node {node} cannot be used: {reason}.",
    "no-overlay-profile": "No profile lies over the road that is there within the greatest grade and the least K of the curves, with PVIs "
    "down to {spacing:m.0} apart. Lower the design speed, or let more be planed off.",
    "bad-upon": "What {part} lays on a surface cannot be used: {reason}.",
    "bad-along": "A part can run values out or even steps along the road; '{kind}' over {over} is neither, or its cases and values differ "
    "in number.",
    "unknown-case": "Node {node} is said to be there in case {missing}, which this part does not have.",
    "unknown-run": "The rule of node {node} refers to the run {missing}, which this part does not have.",
    "unknown-target": "The rule of node {node} refers to {missing}, which is neither the ground nor a target of this part.",
    "target-unbound": "{part} looks for the {target}, and nobody has said what that is here. Choose it in the template, at the part's "
    "values.",
    "target-gone": "{part} looks for the {target}, which is bound to {name}; that is not there. Bind it to something else.",
    "name-twice": "{part} has two {what}s called {name}. Call one of them otherwise.",
    "name-taken": "{name} means something else and can be no {what} of {part}. Choose another name.",
    "node-twice": "Node {name} of {part} is placed twice in {case}. Give one rule another name, or cases of its own.",
    "bad-parameter": "The parameter {label} cannot be used: {reason}.",
    "bad-case": "Case {case} cannot be used: {reason}.",
    "formula-no-number": "{what} is no number: '{expression}'{names} divides by nothing. Change it, or the value.",
    "formula-negative": "{what} comes to {value:g} ('{expression}'); it must not be negative. Use {help}.",
    "part-without-end": "{part} ends at {end}, which is none of its nodes. Choose the node at which the next part begins.",
    "area-open": "Area {area} of {part} has {count} nodes; a closed loop needs at least 3.",
    "area-crosses": "Area {area} of {part} crosses itself as drawn. Order its nodes along its rim.",
    "part-too-large": "{part} has {count} {what}; at most {limit} are taken.",
    "no-such-structure": "{part} stands on the pavement structure '{name}', which is not there. Known: {known}.",
    "part-gone": "A part of {template} was deleted. Put another in its place.",
    "part-newer": "{name} was written by a newer program (schema {schema}; this one reads up to {known}). Bring this program up to date.",
    "part-no-unit": "{name} does not say in which unit its lengths are. Write \"unit\": \"m\" or \"ft\" into it.",
    "part-broken": "{name} is no file of parts: {reason}.",
    "node-needed": "{name} is named by {by}. Delete those too, or change them first.",
    "edit-unfit": "This cannot be done to {part}: {reason}.",
    # corridor
    "corridor-needs": "The road cannot be built yet: {missing}.",
    "spacing-too-small": "A section every {spacing:m.g} would make {count} sections; at most {limit} are allowed. Use a spacing of at "
    "least {least:m.g}.",
    "sections-too-fine": "To keep every edge within {within:m.3} of its straight between sections more than {limit} sections would be "
    "needed. Allow more.",
    "range-empty": "The range from {start:ch.2} to {end:ch.2} holds no part of the road, which runs from {road_start:ch.2} to "
    "{road_end:ch.2}.",
    "offsets-empty": "Between the offsets {left:m.2} and {right:m.2} there is nothing. The second must lie to the right of the first.",
    "range-backwards": "The range ends at {end:ch.2}, which is not behind its start at {start:ch.2}. Give it an end farther on.",
    "stretches-overlap": "Two stretches overlap from {start:ch.2} to {end:ch.2} ({overlap:m.2}). One place has one template: end the "
    "first where the second begins.",
    "adjustments-overlap": "Two adjustments of {parameter} of {part} overlap from {start:ch.2} to {end:ch.2} ({overlap:m.2}). Shorten "
    "one of them.",
    "blend-too-long": "The blend of {length:m.2} at {at:ch.2} does not fit: only {there:m.2} is free beside it. Shorten it, or let it lie "
    "on the other side.",
    "bend-too-tight": "The vehicle cannot go round a bend of {radius:m.2}: its wheelbases need more than {least:m.2}. Use a greater "
    "radius, or a shorter vehicle.",
    "existing-too-narrow": "The existing road is known from {start:bare.2} to {end:m.2} beside the centre; the overlay reaches from "
    "{left:bare.2} to {right:m.2}. Give it more points, or make the overlay narrower.",
    "nothing-built-at": "Nothing is built at {at:ch.2}: no stretch lies there, and the road has no template of its own.",
    "nothing-to-build": "Nothing is built between {start:ch.2} and {end:ch.2}: no stretch lies there, and the road has no template. Give "
    "it one.",
    # files
    "file-too-large": "The file has {size:.1f} MB; at most {limit:.0f} MB are taken. Thin it, or cut it in parts.",
    "file-empty": "The file {name} is empty.",
    "csv-no-columns": "No columns with numbers were found in {name}. Each line needs at least easting, northing and level.",
    "csv-columns-missing": "The column for {missing} is not chosen. Choose which column holds it.",
    "csv-column-twice": "Column {column} is chosen for both {first} and {second}. Choose a column of its own for each.",
    "csv-no-points": "No line of {name} could be read as a point: {reason}",
    "not-text": "The file {name} is not a text file: byte {position} cannot be read as UTF-8 or Latin-1 text.",
    "xml-broken": "The file {name} is not complete XML: {reason} (line {line}). It may have been cut off; export it again.",
    "xml-entities": "The file {name} declares XML entities (line {line}). Such files can be harmful and are not read. Export it again "
    "without a document type.",
    "xml-too-deep": "The file {name} nests its elements deeper than {limit}. It is not a LandXML file.",
    "not-landxml": "The file {name} starts with <{root}>, not with <LandXML>. Choose a LandXML file.",
    "dxf-broken": "The file {name} cannot be read as a DXF drawing: {reason}. Export it again, best as DXF 2013 or later.",
    "dxf-lines-too-large": "The drawing {name} has {size:.0f} MB; lines are taken from drawings of at most {limit:.0f} MB. Export only "
    "the layers of the lines that are meant.",
    "dxf-no-line": "The drawing {name} has no open straights or arcs to lay a line along. It has: {content}.",
    "dxf-too-many": "The drawing holds more than {limit} objects once its blocks are taken apart. Export only the layers that are needed.",
    "dxf-nothing": "The drawing {name} holds no points, lines or faces in its model space. It has: {content}.",
    "grid-broken": "The file {name} cannot be read as an elevation grid: {reason}.",
    "grid-too-large": "The grid {name} has {columns} × {rows} cells; at most {limit} are taken. Cut it to the site.",
    "grid-turned": "The grid {name} is turned or mirrored against north and is not read. Export it with north up.",
    "grid-no-place": "The grid {name} does not say where it lies. Export it with its georeference.",
    "grid-no-level": "The grid {name} has no cell with a level.",
    "grid-cells": "Cells of {size:m.g} would make {count} of them; at most {limit} are written. Use cells of at least {least:m.2}.",
    "las-broken": "The file {name} cannot be read as LAS or LAZ: {reason}.",
    "las-cut": "The file {name} promises {count} points and holds {there}: it was cut off. Copy or download it again.",
    "reader-died": "The file {name} cannot be read: while it was unpacked in a process apart, {how}. It is damaged, or was cut off.",
    "las-too-many": "The file {name} has {count} points; at most {limit} are taken. Cut it in parts.",
    "las-no-points": "The file {name} has {count} usable points; a surface needs at least 3.",
    "json-broken": "The file {name} is not complete JSON: {reason}. It may have been cut off; export it again.",
    "not-geojson": "The file {name} is JSON, but not GeoJSON: it has no FeatureCollection, Feature or geometry where one belongs.",
    "geojson-place": "The file {name} has a place {text} that is not easting, northing and perhaps level as numbers.",
    "geojson-nothing": "The file {name} holds no points, lines or polygons.",
    "landxml-element": "{kind} {number} of {name}, at {station:m.3}, contradicts itself: {what}. Mend the file, or fit a line through "
    "its points.",
    "landxml-element-kind": "{name} holds an element '{kind}' (line {line}), which is not read here; without it the line would be too "
    "short.",
    "landxml-element-lacks": "{kind} {number} of {name} has no {what} (line {line}), so it cannot be laid out.",
    "landxml-spiral-type": "Spiral {number} of {name}, at {station:m.3}, is of the type '{type}'. Read are {known}; for others programs "
    "do not agree on one formula. Export it as one of these, or fit a line through its points.",
    "landxml-too-many": "{owner} has more than {limit} {what}. Cut the file in parts.",
    "landxml-no-line": "{name} has no alignment to bring in.",
    "landxml-no-surface": "The file {name} holds no surface with points. It has: {content}.",
    "landxml-point-missing": "Face {face} of surface {surface} names point {point}, which the file does not define. Nothing was brought "
    "in; export the surface again.",
    "landxml-number": "'{text}' in surface {surface} ({what}, line {line}) is not {expected}.",
    "landxml-units": "The file {name} gives lengths in '{unit}', which is not a unit this program knows. Known are {known}.",
    # sheets
    "no-stations-for-sheet": "There is nothing to put on a sheet: the range {start:ch.1} to {end:ch.1} has no sections.",
    # junctions
    "roads-apart": "{side} does not meet {main} any more: its nearer end lies {apart:m.2} from that line, and it meets it up to "
    "{limit:m.0}. Move the end, or tie it to {main}.",
    "arm-missing": "{road} has no arm {arm} {other} any more. Lengthen {road}, or delete the junction's corners there.",
    "edge-missing": "{road} has no edge on the {side} at {at:ch.1} that a return could touch; it needs a {roles}. Give it a "
    "template with pavement there.",
    "edge-off-ground": "The edge {road} leaves the ground at {at:m.1}, so it has no level there. Pick a part that lies on the ground.",
    "eye-off-ground": "Where a driver waits the side road lies off the ground, so what he sees cannot be told. Give it a template there.",
    "turn-too-tight": "A vehicle of these lengths cannot go round a radius of {radius:m.2}; {least:m.2} is the least.",
    "edge-not-there": "No received line lies within {limit:m.1} of this place. Click nearer to the edge, or click along it.",
    "return-none": "No return fits at {corner}: the edges do not come together so that a circle touches both. Move the roads, or give them "
    "another angle.",
    "return-too-large": "A radius of {radius:m.2} does not fit at {corner}; it is {over:m.2} too large. The greatest that fits is "
    "{fits:m.2}.",
    "patch-crosses": "The edges of {junction} cross each other near E {easting:bare.2}, N {northing:bare.2}, so there is no area between "
    "them. Give the corner there a smaller radius.",
    # haul
    "haul-input": "The {what} is {value:.3f}; it cannot be less than nothing, and a factor not nothing.",
    "haul-name": "Two borrow pits or two tips are called {name}. Give one another name.",
    # check cases
    "unknown-kind": "Cases of kind {kind} are not covered.",
}  # fmt: skip


class IvoryRidgeError(Exception):
    """Root of all our errors: a code, the numbers of its sentence, and the place it is about."""

    def __init__(self, code: str, *, where: dict[str, Any] | None = None, **params: Any) -> None:
        self.code = code
        self.params = params
        self.where = where or {}
        super().__init__(self.sentence)

    @property
    def sentence(self) -> str:
        return say(SENTENCES[self.code], self.params)


class InputError(IvoryRidgeError, ValueError):
    """What was given cannot be: wrong, missing or out of range."""


class FormatError(InputError):
    """A file that cannot be read; ``where`` names its line or record."""


class NoSolutionError(IvoryRidgeError):
    """Legal input that has no answer."""


class ConvergenceError(IvoryRidgeError):
    """Our own method gave up; a fault of ours, logged."""
