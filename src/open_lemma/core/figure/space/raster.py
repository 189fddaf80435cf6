"""Triangles to pixels: for each sample the nearest few layers, then light, colour, and lines by how much of a sample they cover.

No sorting of whole triangles, which puts things that meet in the wrong order; each sample has its own depth. Compiled once
(Numba keeps what it compiled); the same data give the same picture to the last bit.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ...compiled import compiled

LAYERS = 6
_LIGHT = np.array([-0.44, 0.62, 0.65]) / np.linalg.norm([-0.44, 0.62, 0.65])  # from the upper left, behind the viewer


@compiled
def fill(
    places: Any, triangles: Any, order: Any, top: int, rows: int, depth: Any, owner: Any, first: Any, second: Any
) -> None:  # fmt: skip
    """The nearest layers of each sample in a band of rows.

    places (n, 3) in samples, y downwards, depth towards the viewer; `order`: triangles that touch the band
    depth, owner, first, second (rows, width, layers): depth, triangle (-1: none) and its shares of corners 1 and 2
    """
    width, layers = depth.shape[1], depth.shape[2]
    for index in range(order.shape[0]):
        t = order[index]
        a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        x0, y0, z0 = places[a, 0], places[a, 1], places[a, 2]
        ux, uy, uz = places[b, 0] - x0, places[b, 1] - y0, places[b, 2] - z0
        vx, vy, vz = places[c, 0] - x0, places[c, 1] - y0, places[c, 2] - z0
        turn = ux * vy - uy * vx
        if turn == 0.0:
            continue
        low_x = max(0, int(np.ceil(x0 + min(0.0, ux, vx) - 0.5)))
        high_x = min(width - 1, int(np.floor(x0 + max(0.0, ux, vx) - 0.5)))
        low_y = max(top, int(np.ceil(y0 + min(0.0, uy, vy) - 0.5)))
        high_y = min(top + rows - 1, int(np.floor(y0 + max(0.0, uy, vy) - 0.5)))
        for y in range(low_y, high_y + 1):
            dy = y + 0.5 - y0
            for x in range(low_x, high_x + 1):
                dx = x + 0.5 - x0
                s = (dx * vy - dy * vx) / turn
                r = (dy * ux - dx * uy) / turn
                if s < -1e-9 or r < -1e-9 or s + r > 1.0 + 1e-9:
                    continue
                z = z0 + s * uz + r * vz
                k = y - top
                if z <= depth[k, x, layers - 1]:
                    continue
                # Two triangles that share an edge both claim a sample on it: the first keeps it.
                at = layers - 1
                while at > 0 and z > depth[k, x, at - 1]:
                    at -= 1
                for j in range(layers - 1, at, -1):
                    depth[k, x, j] = depth[k, x, j - 1]
                    owner[k, x, j] = owner[k, x, j - 1]
                    first[k, x, j] = first[k, x, j - 1]
                    second[k, x, j] = second[k, x, j - 1]
                depth[k, x, at] = z
                owner[k, x, at] = t
                first[k, x, at] = s
                second[k, x, at] = r


@compiled
def _covered(value: float, slope: float, levels: Any, low: int, high: int, width: float) -> float:
    """How much of a sample the nearest of the level lines covers; slope: change of the value from sample to sample."""
    if slope <= 1e-12 or high <= low:
        return 0.0
    at = low
    end = high
    while at < end:
        middle = (at + end) // 2
        if levels[middle] < value:
            at = middle + 1
        else:
            end = middle
    away = 1e300
    if at < high:
        away = abs(levels[at] - value)
    if at > low:
        away = min(away, abs(levels[at - 1] - value))
    return min(max(width / 2 + 0.5 - away / slope, 0.0), 1.0)


@compiled
def shade(
    places: Any, normals: Any, values: Any, triangles: Any, surface: Any, depth: Any, owner: Any, first: Any, second: Any,
    colours: Any, opacities: Any, scaled: Any, map_: Any, bands: Any, band_low: Any, band_high: Any,
    line_low: Any, line_high: Any, line_value: Any, line_first: Any, line_last: Any, line_width: Any, line_colour: Any, levels: Any,
    light: Any, plain: Any, samples: int, picture: Any, nearest: Any,
) -> None:  # fmt: skip
    """Colour and cover of each sample, front to back, their means added up in `picture` (rows, width, 4), premultiplied.

    normals (n, 3) towards the viewer's frame; values (n, k): tint in column 0, then what lines run along
    surface (m,): which surface a triangle belongs to; of surfaces: colours (s, 3), opacities, scaled (by the map), bands
    lines line_low[s]..line_high[s] of a surface: along values[:, line_value], levels line_first..line_last
    samples: how many each way make a pixel of `picture`
    nearest (rows, width): depth of the nearest layer that hides what is behind it
    """
    rows, width, layers = depth.shape
    part = 1.0 / (samples * samples)
    for y in range(rows):
        for x in range(width):
            left = 1.0
            for k in range(layers):
                t = owner[y, x, k]
                if t < 0:
                    break
                if k > 0 and depth[y, x, k - 1] - depth[y, x, k] < 1e-7 and surface[owner[y, x, k - 1]] == surface[t]:
                    continue  # the same place by two triangles that share an edge
                s = surface[t]
                a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
                p, q = first[y, x, k], second[y, x, k]
                o = 1.0 - p - q
                nx = o * normals[a, 0] + p * normals[b, 0] + q * normals[c, 0]
                ny = o * normals[a, 1] + p * normals[b, 1] + q * normals[c, 1]
                nz = o * normals[a, 2] + p * normals[b, 2] + q * normals[c, 2]
                size = (nx * nx + ny * ny + nz * nz) ** 0.5
                if size > 0:
                    nx, ny, nz = nx / size, ny / size, nz / size
                back = nz < 0
                if back:
                    nx, ny, nz = -nx, -ny, -nz
                # Falls off smoothly on the side that the light does not reach: no edge is seen where there is none.
                lit = 0.5 + 0.5 * (nx * light[0] + ny * light[1] + nz * light[2])
                bright = 0.60 + 0.34 * lit * lit + 0.07 * nz
                if back and plain[s] == 0:
                    bright *= 0.93
                value = o * values[a, 0] + p * values[b, 0] + q * values[c, 0]
                if scaled[s] == 1:
                    if band_high[s] > band_low[s]:
                        at = band_low[s]
                        while at < band_high[s] - 1 and value >= bands[at + 1, 0]:
                            at += 1
                        share = bands[at, 1]
                    else:
                        share = value
                    place = min(max(share, 0.0), 1.0) * (map_.shape[0] - 1)
                    i = min(int(place), map_.shape[0] - 2)
                    w = place - i
                    red = map_[i, 0] * (1 - w) + map_[i + 1, 0] * w
                    green = map_[i, 1] * (1 - w) + map_[i + 1, 1] * w
                    blue = map_[i, 2] * (1 - w) + map_[i + 1, 2] * w
                else:
                    red, green, blue = colours[s, 0], colours[s, 1], colours[s, 2]
                cover = opacities[s]
                bare = cover == 0.0  # lines without a sheet have its colours
                if not bare:
                    red, green, blue = min(red * bright, 1.0), min(green * bright, 1.0), min(blue * bright, 1.0)
                if line_high[s] > line_low[s]:
                    ux, uy = places[b, 0] - places[a, 0], places[b, 1] - places[a, 1]
                    vx, vy = places[c, 0] - places[a, 0], places[c, 1] - places[a, 1]
                    turn = ux * vy - uy * vx
                    for j in range(line_low[s], line_high[s]):
                        column = line_value[j]
                        h = o * values[a, column] + p * values[b, column] + q * values[c, column]
                        du, dv = values[b, column] - values[a, column], values[c, column] - values[a, column]
                        gx, gy = (du * vy - dv * uy) / turn, (dv * ux - du * vx) / turn
                        slope = (gx * gx + gy * gy) ** 0.5
                        ink = _covered(h, slope, levels, line_first[j], line_last[j], line_width[j])
                        if ink > 0.0:
                            # Seen nearly edge on, lines run together into a blot: they fade there.
                            ink *= min(1.0, nz * 6.0) * line_colour[j, 3]
                            if not bare:
                                red = red * (1 - ink) + line_colour[j, 0] * ink
                                green = green * (1 - ink) + line_colour[j, 1] * ink
                                blue = blue * (1 - ink) + line_colour[j, 2] * ink
                            cover = max(cover, ink)
                share = left * cover * part
                i, j = y // samples, x // samples
                picture[i, j, 0] += share * red
                picture[i, j, 1] += share * green
                picture[i, j, 2] += share * blue
                picture[i, j, 3] += share
                left *= 1.0 - cover
                if opacities[s] >= 1.0:
                    nearest[i, j] = max(nearest[i, j], depth[y, x, k])
                    break
                if left < 0.004:
                    break


def light() -> Any:
    return _LIGHT.copy()
