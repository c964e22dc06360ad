"""The exact volume between two triangulated surfaces: on each piece that two triangles share the difference is a plane."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit

from ..terrain.surface import Surface

__all__ = ["SurfaceVolume", "volume_between"]


@dataclass(frozen=True, slots=True)
class SurfaceVolume:
    """Cut (design below existing) and fill (above), m3, both >= 0, over the area that both surfaces have, m2."""

    cut: float
    fill: float
    common_area: float

    @property
    def net(self) -> float:
        """Fill less cut, m3."""
        return self.fill - self.cut


@njit(cache=True)
def _between(pa, ta, pb, tb, starts, members, e0, n0, size, columns, rows):
    cut, fill, area = 0.0, 0.0, 0.0
    px, py, qx, qy, d = np.empty(12), np.empty(12), np.empty(12), np.empty(12), np.empty(12)
    for k in range(len(ta)):
        x0, y0, z0 = pa[ta[k, 0], 0], pa[ta[k, 0], 1], pa[ta[k, 0], 2]  # places from here lose nothing
        ax, ay = pa[ta[k, 1], 0] - x0, pa[ta[k, 1], 1] - y0
        bx, by = pa[ta[k, 2], 0] - x0, pa[ta[k, 2], 1] - y0
        det = ax * by - bx * ay
        if det == 0.0:
            continue
        za, zb = pa[ta[k, 1], 2] - z0, pa[ta[k, 2], 2] - z0
        gx, gy = (za * by - zb * ay) / det, (ax * zb - bx * za) / det
        lx, hx = min(0.0, ax, bx), max(0.0, ax, bx)
        ly, hy = min(0.0, ay, by), max(0.0, ay, by)
        fi0, fi1 = (x0 + lx - e0) / size, (x0 + hx - e0) / size
        fj0, fj1 = (y0 + ly - n0) / size, (y0 + hy - n0) / size
        if fi1 < 0 or fj1 < 0 or fi0 > columns or fj0 > rows:
            continue
        i0, i1 = min(max(int(fi0), 0), columns - 1), min(max(int(fi1), 0), columns - 1)
        j0, j1 = min(max(int(fj0), 0), rows - 1), min(max(int(fj1), 0), rows - 1)
        for j in range(j0, j1 + 1):
            for i in range(i0, i1 + 1):
                c = j * columns + i
                for m in range(starts[c], starts[c + 1]):
                    t = tb[members[m]]
                    ux, uy, uz = pb[t[0], 0] - x0, pb[t[0], 1] - y0, pb[t[0], 2] - z0
                    vx, vy, vz = pb[t[1], 0] - x0, pb[t[1], 1] - y0, pb[t[1], 2] - z0
                    wx, wy, wz = pb[t[2], 0] - x0, pb[t[2], 1] - y0, pb[t[2], 2] - z0
                    mx, my = max(lx, min(ux, vx, wx)), max(ly, min(uy, vy, wy))
                    if mx > min(hx, max(ux, vx, wx)) or my > min(hy, max(uy, vy, wy)):
                        continue
                    # a pair that shares several cells counts in the one that holds the lower left corner of what both cover
                    ci = min(max(int((x0 + mx - e0) / size), 0), columns - 1)
                    cj = min(max(int((y0 + my - n0) / size), 0), rows - 1)
                    if ci != i or cj != j:
                        continue
                    turned = (vx - ux) * (wy - uy) - (wx - ux) * (vy - uy)
                    if turned == 0.0:
                        continue
                    hxg = ((vz - uz) * (wy - uy) - (wz - uz) * (vy - uy)) / turned
                    hyg = ((vx - ux) * (wz - uz) - (wx - ux) * (vz - uz)) / turned
                    way = 1.0 if turned > 0 else -1.0
                    n = 3
                    px[0], py[0], px[1], py[1], px[2], py[2] = 0.0, 0.0, ax, ay, bx, by
                    for e in range(3):  # what of the triangle lies inside of each side of the other
                        if e == 0:
                            sx, sy, ex, ey = ux, uy, vx, vy
                        elif e == 1:
                            sx, sy, ex, ey = vx, vy, wx, wy
                        else:
                            sx, sy, ex, ey = wx, wy, ux, uy
                        kept = 0
                        for q in range(n):
                            r = (q + 1) % n
                            dq = way * ((ex - sx) * (py[q] - sy) - (ey - sy) * (px[q] - sx))
                            dr = way * ((ex - sx) * (py[r] - sy) - (ey - sy) * (px[r] - sx))
                            if dq >= 0:
                                qx[kept], qy[kept] = px[q], py[q]
                                kept += 1
                            if (dq > 0 and dr < 0) or (dq < 0 and dr > 0):
                                f = dq / (dq - dr)
                                qx[kept], qy[kept] = px[q] + f * (px[r] - px[q]), py[q] + f * (py[r] - py[q])
                                kept += 1
                        n = kept
                        for q in range(n):
                            px[q], py[q] = qx[q], qy[q]
                        if n < 3:
                            break
                    if n < 3:
                        continue
                    for q in range(n):
                        d[q] = uz + hxg * (px[q] - ux) + hyg * (py[q] - uy) - (gx * px[q] + gy * py[q])
                    for q in range(1, n - 1):
                        a = 0.5 * abs((px[q] - px[0]) * (py[q + 1] - py[0]) - (px[q + 1] - px[0]) * (py[q] - py[0]))
                        area += a
                        one, two, three = d[0], d[q], d[q + 1]
                        whole = a * (one + two + three) / 3.0
                        if one >= 0 and two >= 0 and three >= 0:
                            fill += whole
                        elif one <= 0 and two <= 0 and three <= 0:
                            cut -= whole
                        else:  # the corner that lies alone on its side of the line where both surfaces are level with each other
                            if (one > 0) != (two > 0) and (one > 0) != (three > 0):
                                tip, o1, o2 = one, two, three
                            elif (two > 0) != (one > 0) and (two > 0) != (three > 0):
                                tip, o1, o2 = two, one, three
                            else:
                                tip, o1, o2 = three, one, two
                            corner = a * tip * tip * tip / (3.0 * (tip - o1) * (tip - o2))
                            if tip > 0:
                                fill += corner
                                cut -= whole - corner
                            else:
                                cut -= corner
                                fill += whole - corner
    return cut, fill, area


def volume_between(existing: Surface, design: Surface) -> SurfaceVolume:
    """Cut and fill from one surface to another where both are; exact for planes over triangles, by clipping every two that overlap and
    splitting what they share along the line where both are level. Raises InputError for a surface without triangles."""
    if len(design.triangles) > len(existing.triangles):  # the one with more triangles is looked up by cells
        found = volume_between(design, existing)
        return SurfaceVolume(found.fill, found.cut, found.common_area)
    g = existing.grid
    cut, fill, area = _between(
        design.points, design.triangles, existing.points, existing.triangles, g.starts, g.triangles, *g.origin, g.size, g.columns, g.rows
    )  # fmt: skip
    return SurfaceVolume(float(fill), float(cut), float(area))  # the kernel tells of the second over the first
