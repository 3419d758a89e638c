"""`./ember bench face`: how well faces are read. Made-up photographs by light, tilt and noise, against what they were
made of.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..face.frame import Frame
from ..face.palette import palette_of
from ..face.reading import FaceReading, NoFaceError, read_face
from .face_render import Photograph, Scene, photograph

CUTS = ("beef/ribeye", "lamb/leg", "duck/breast", "pork/loin", "chicken/breast", "salmon/fillet")
TOLD_MM = 0.5  # edges nearer to a face or to each other than this are not asked for
FLAT_K = 2.5  # so near to the heat of the middle a band has no edge, only a place where it fades
NEAR_EDGE_C = 1.0  # a core so near to the border of two words may be called either


@dataclass(frozen=True)
class FaceErrors:
    """Of one photograph: errors of each edge, mm; whether the word of the middle is right; error of the core, K, and
    whether its band holds it; None for a face that was refused.
    """

    scene: Scene
    edges_mm: tuple[float, ...]
    word_is_right: bool
    core_k: float
    band_holds: bool


def scenes(count: int, seed: int = 7) -> Iterator[Scene]:
    """Scenes as a kitchen has them."""
    random = np.random.default_rng(seed)
    for number in range(count):
        cut = CUTS[number % len(CUTS)]
        red = len(palette_of(cut).bands) > len(palette_of("pork/loin").bands)
        core = float(random.uniform(45, 68) if red else random.uniform(42, 72))
        mm = float(random.uniform(16, 45))
        yield Scene(
            cut=cut, mm=mm, wide_mm=float(random.uniform(1.2, 1.7)) * mm, core_c=core,
            surface_c=float(random.uniform(104, 119)),
            edge_mm=(float(random.uniform(0.06, 0.18)) * mm, float(random.uniform(0.06, 0.18)) * mm),
            uneven_mm=float(random.uniform(0, 0.03)) * mm, px_mm=float(random.uniform(12, 18)),
            kelvin=float(random.choice([2700, 3200, 4000, 5000, 6500])), exposure=float(random.uniform(0.55, 1.0)),
            tilt=float(random.uniform(0, 25)), turn=float(random.uniform(-20, 20)),
            noise=float(random.uniform(0.003, 0.03)), glare=float(random.uniform(0, 0.06)),
            blur_mm=float(random.uniform(0.02, 0.15)), vignette=float(random.uniform(0, 0.4)),
            fibre=float(random.uniform(1, 3)), quality=int(random.integers(70, 95)), seed=number,
        )  # fmt: skip


def errors_of(scene: Scene) -> FaceErrors | None:
    """Render one, read it, and compare; None if it was refused."""
    taken = photograph(scene)
    try:
        reading = read_face(
            taken.rgb, Frame.of(taken.top, taken.under, scene.mm, taken.rgb.shape, taken.white), scene.cut
        )
    except NoFaceError:
        return None
    palette = palette_of(scene.cut)
    core = float(taken.looks_c.min())
    words = {
        next(word for floor, word in palette.bands if core + near >= floor) for near in (-NEAR_EDGE_C, NEAR_EDGE_C)
    }
    return FaceErrors(
        scene, tuple(_edges(reading, taken, scene)), reading.middle.word in words, reading.core_c - core,
        reading.core_low_c <= core <= reading.core_high_c,
    )  # fmt: skip


def _edges(reading: FaceReading, taken: Photograph, scene: Scene) -> Iterator[float]:
    """Errors of the edges that can be told, mm."""
    depth, looks = np.array(reading.depth_mm), np.array(reading.looks_c)
    for from_top in (True, False):
        seen = looks if from_top else looks[::-1]
        last = 0.0
        for celsius, _ in palette_of(scene.cut).bands[:-1]:
            true = taken.edge_mm(celsius, from_top)
            if true - last < TOLD_MM or celsius - scene.core_c < FLAT_K:
                continue
            hot = seen >= celsius
            found = 0.0 if not hot[0] else float(depth[-1] if hot.all() else depth[int(np.argmin(hot))])
            yield found - true
            last = true


def study(count: int = 60, seed: int = 7) -> dict[str, Any]:
    """Errors over many scenes: in all, and by what makes it hard."""
    rows = [(scene, errors_of(scene)) for scene in scenes(count, seed)]
    read = [row for _, row in rows if row is not None]
    by: dict[str, dict[str, Any]] = {}
    for name, key in (
        ("light", lambda s: "warm" if s.kelvin < 3600 else "neutral" if s.kelvin < 6000 else "cool"),
        ("tilt", lambda s: "to 10°" if s.tilt < 10 else "to 25°"),
        ("noise", lambda s: "little" if s.noise < 0.015 else "much"), ("cut", lambda s: s.cut),
    ):  # fmt: skip
        by[name] = {
            value: _told([r for r in read if key(r.scene) == value]) for value in sorted({key(s) for s, _ in rows})
        }
    return {"scenes": count, "refused": count - len(read), **_told(read), "by": by}


def _told(rows: list[FaceErrors]) -> dict[str, Any]:
    edges = np.abs([edge for row in rows for edge in row.edges_mm])
    if not rows or not len(edges):
        return {"faces": len(rows)}
    return {
        "faces": len(rows), "edges": len(edges), "median_mm": round(float(np.median(edges)), 2),
        "p95_mm": round(float(np.quantile(edges, 0.95)), 2), "within_1_mm": round(float((edges <= 1.0).mean()), 3),
        "word_right": round(float(np.mean([row.word_is_right for row in rows])), 3),
        "core_k": round(float(np.median(np.abs([row.core_k for row in rows]))), 1),
        "band_holds": round(float(np.mean([row.band_holds for row in rows])), 3),
    }  # fmt: skip


if __name__ == "__main__":
    print(json.dumps(study(int(sys.argv[1]) if len(sys.argv) > 1 else 60), ensure_ascii=False, indent=1))
