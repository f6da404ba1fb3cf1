"""Sets of the demo's class: what the students of the puppet theatre's course handed in, each a little off the reference.

Writes one slant-set/1 a picture into a folder; `slantcast studio` draws them, with marks.
"""

import json
import sys
from pathlib import Path

# name: key azimuth, elevation, size in metres, stops; fill azimuth, elevation, stops under the key; all invented
HANDED_IN = {
    "reference": (40, 32, 0.75, -0.35, -28, 8, -1.8),
    "ana": (36, 20, 0.75, -0.35, -28, 8, -1.7),
    "bruno": (52, 18, 0.60, -0.5, -30, 5, -2.2),
    "cilka": (42, 34, 0.78, -0.3, -26, 10, -1.8),
    "dorota": (30, 14, 0.40, -0.1, -30, 0, -1.2),
    "emil": (62, 24, 0.75, -0.9, -25, 8, -2.6),
    "faro": (-38, 26, 0.75, -0.4, 28, 8, -1.6),
    "greta": (38, 22, 1.10, -0.35, -28, 8, -1.5),
    "hugo": (44, 16, 0.20, -0.3, -28, 8, -2.4),
}


def main(folder: Path) -> None:
    base = json.loads((Path(__file__).parent.parent / "crates/server/demo/sets/moon.json").read_text())
    folder.mkdir(parents=True, exist_ok=True)
    for i, (name, (az, el, size, stops, faz, fel, under)) in enumerate(HANDED_IN.items()):
        lit = json.loads(json.dumps(base))
        key, fill = lit["lights"][:2]
        key.update(azimuth_deg=az, elevation_deg=el, level={"stops": stops})
        key["source"].update(width_m=size, height_m=size)
        fill.update(azimuth_deg=faz, elevation_deg=fel, level={"stops": stops + under})
        lit["picture"] = {**lit.get("picture", {}), "width": 480, "height": 600, "samples": 64, "seed": 100 + i}
        (folder / f"{name}.json").write_text(json.dumps(lit))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
