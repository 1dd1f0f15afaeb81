"""A dog made ready for a scene: skin, coat, eyes with lids, nose and tongue, as meshes of one subject."""

import numpy as np

from tools.photos import dog as anatomy
from tools.photos.blobs import Limb, flows, shares, surface
from tools.photos.coats import DOGS
from tools.photos.fur import ribbons, scattered, strands
from tools.photos.mesh import Mesh, merged, sheet, turn_z
from tools.photos.noise import noise3

EYE = 0.0245
LID_COLOUR = (0.018, 0.014, 0.012)


def add_dog(
    scene, subject, position, yaw, breed=None, pose=anatomy.STAND, coat="tan", hairs=260000, seed=1, strand=1.0
):
    """Put a dog into the scene at ``position``, facing ``yaw`` degrees (0: +x, 90: away along +y).

    Near the camera it takes more ``hairs``, each thinner by the share ``strand``.
    """
    breed = breed or anatomy.Breed()
    random = np.random.default_rng(seed)
    bones = anatomy.skeleton(breed, pose)
    wear = DOGS[coat]
    turn = np.radians(yaw)
    eye = turn_z(-turn) @ (np.asarray(scene.camera.eye) - position)

    def put(mesh, material):
        scene.add(mesh.moved(position, turn), material, subject)

    skin = anatomy.body(bones, 0.017 * breed.height)
    skin = on_ground(skin, bones)
    base, _ = wear.worn(shares(bones.limbs, skin.vertices, wear.blend * breed.height), skin.vertices, random)
    put(Mesh(skin.vertices, skin.faces, base * 0.5), "matte")
    roots, normals = scattered(skin, hairs, random)
    colour, length = wear.worn(shares(bones.limbs, roots, wear.blend * breed.height), roots, random)
    length = length * breed.height * random.uniform(0.7, 1.15, hairs) * (1 + 0.18 * noise3(roots, 0.06, 3))
    length *= np.clip(roots[:, 2] / (0.06 * breed.height), 0.25, 1)
    bare = near_face(bones, breed, roots)
    length, kept = length * bare, bare > 0.02
    flow = flows(bones.limbs, roots)
    knots = strands(
        roots[kept], normals[kept], length[kept], flow[kept], random, wear.lift, wear.droop, wear.clump, wear.unruly
    )
    knots[..., 2] = np.maximum(knots[..., 2], 0.003)
    thick = 0.0021 * breed.height * strand
    put(ribbons(knots, colour[kept], eye, thick, thick * 0.25), "fur")
    put(merged(eyes(bones, breed, wear.iris)), "wet")
    put(merged(lids(bones, breed)), "satin")
    put(nose(bones, breed, wear.nose), "nose")
    if pose.jaw > 12:
        put(tongue(bones, breed, pose), "gloss")


def on_ground(skin, bones):
    """The skin with what would sink into the ground pressed flat on it; an error where the pose does not touch it."""
    low = skin.vertices[:, 2].min() / bones.size
    if not -0.16 < low < 0.03:
        raise ValueError(f"the dog's lowest point is {low:.2f} of its height from the ground: mend the pose")
    flat = skin.vertices.copy()
    flat[:, 2] = np.maximum(flat[:, 2], 0.002)
    return skin.with_vertices(flat)


def near_face(bones, breed, points):
    """1 where hair grows in full, falling to 0 on the eyeballs and the nose."""
    out = np.ones(len(points))
    for side in (1, -1):
        away = np.linalg.norm(points - bones.on_head(anatomy.eye_place(breed, side)), axis=1) / bones.size
        out *= np.clip((away - 0.030) / 0.048, 0, 1) + 0.16 * (away > 0.030)
    away = np.linalg.norm(points - bones.on_head(nose_place(breed)), axis=1) / bones.size
    return np.clip(out * np.clip((away - 0.027) / 0.05, 0, 1), 0, 1)


def nose_place(breed):
    return np.array([breed.front + breed.muzzle + 0.002, 0, -0.022])


def eye_frame(bones, side):
    """Columns: the way the eye looks, to its left, and up."""
    look = bones.head_turn @ np.array([0.93, 0.34 * side, 0.08])
    look /= np.linalg.norm(look)
    up = bones.head_turn @ np.array([0.0, 0, 1.0])
    left = np.cross(up, look)
    left /= np.linalg.norm(left)
    return np.stack([look, left, np.cross(look, left)], 1)


def eyes(bones, breed, iris):
    """Eyeballs with pupil, iris and a little white at the rim."""
    out = []
    for side in (1, -1):
        frame, middle = eye_frame(bones, side), bones.on_head(anatomy.eye_place(breed, side))
        off, round_ = np.meshgrid(
            np.linspace(0, np.pi, 40), np.linspace(0, 2 * np.pi, 40, endpoint=False), indexing="ij"
        )
        way = np.stack([np.cos(off), np.sin(off) * np.cos(round_), np.sin(off) * np.sin(round_)], -1)
        streaks = 1 + 0.3 * np.sin(round_ * 23)[..., None]
        colour = np.where((off < 0.40)[..., None], 0.004, np.array(iris) * streaks)
        colour = np.where((off > 0.92)[..., None], [0.035, 0.022, 0.018], colour)
        colour = np.where((off > 1.12)[..., None], [0.05, 0.035, 0.03], colour)
        out.append(sheet(middle + way @ frame.T * EYE * bones.size, colour, closed=True))
    return out


def lids(bones, breed):
    """Shells a little larger than the eyeball that leave an almond open."""
    out = []
    for side in (1, -1):
        frame, middle = eye_frame(bones, side), bones.on_head(anatomy.eye_place(breed, side))
        turn = np.radians(np.linspace(-105, 105, 36))
        for up, edge in ((1, 54), (-1, 40)):
            rim = np.radians(edge) * np.cos(turn * 0.82).clip(0.05) ** 0.7
            share = np.linspace(0, 1, 10)[:, None]
            tilt = up * (rim + (np.radians(88) - rim) * share)
            way = np.stack([np.cos(tilt) * np.cos(turn), np.cos(tilt) * np.sin(turn), np.sin(tilt)], -1)
            thick = (1.10 + 0.06 * np.exp(-(((share - 0.08) / 0.1) ** 2)))[..., None]
            out.append(sheet(middle + way @ frame.T * thick * EYE * bones.size, LID_COLOUR))
    return out


def nose(bones, breed, colour):
    """A nose pad with two nostrils, wider above."""
    s, at = bones.size, lambda dx, y, z: bones.on_head(nose_place(breed) + [dx, y, z])
    pads = [Limb(at(0.0, 0.016, 0.008), at(0.0, -0.016, 0.008), 0.023 * s, 0.023 * s, "nose", 0.012 * s)]
    pads += [
        Limb(at(-0.004, 0.019 * side, -0.002), at(-0.02, 0.021 * side, 0.0), 0.018 * s, 0.014 * s, "nose", 0.010 * s)
        for side in (1, -1)
    ]
    pads.append(Limb(at(-0.004, 0, -0.012), at(-0.012, 0, -0.030), 0.012 * s, 0.007 * s, "nose", 0.012 * s))
    holes = [
        Limb(at(0.016, 0.012 * side, 0.000), at(0.004, 0.024 * side, -0.004), 0.0065 * s, 0.005 * s, "", 0.006 * s)
        for side in (1, -1)
    ]
    pad = surface(pads, 0.0022 * s, holes)
    grain = 1 + 0.35 * noise3(pad.vertices, 0.004 * s, 51)[:, None]
    return Mesh(pad.vertices, pad.faces, np.clip(np.array(colour) * grain, 0.003, 1))


def tongue(bones, breed, pose):
    """A flat tongue that lies in the lower jaw, grooved, and hangs over its front."""
    drop = np.radians(pose.jaw)
    start = np.array([breed.front, 0, -0.068])
    along = np.array([np.cos(drop), 0, -np.sin(drop)])
    length = breed.muzzle * 0.86
    line = [start + along * length * t for t in (0.1, 0.4, 0.7, 0.92)]
    lip = line[-1]
    line += [
        lip + np.array(d) for d in ((0.020, 0, -0.006), (0.030, 0, -0.022), (0.033, 0, -0.044), (0.032, 0, -0.062))
    ]
    t = np.linspace(0, 1, len(line))
    fine = np.linspace(0, 1, 40)
    spine = np.stack([np.interp(fine, t, [p[i] for p in line]) for i in range(3)], 1)
    for _ in range(3):
        spine[1:-1] = (spine[:-2] + 2 * spine[1:-1] + spine[2:]) / 4
    width = 0.030 * np.sqrt(np.clip(1 - ((fine - 0.45) / 0.56) ** 4, 0, 1))
    across = np.linspace(-1, 1, 17)
    over = np.gradient(spine, axis=0)
    over = np.stack([-over[:, 2], 0 * over[:, 0], over[:, 0]], 1)
    over /= np.linalg.norm(over, axis=1, keepdims=True)
    rise = 0.009 * (1 - across**2) - 0.006 * np.exp(-((across / 0.18) ** 2)) - 0.008 * across**2
    points = spine[:, None] + over[:, None] * rise[None, :, None]
    points[..., 1] += width[:, None] * across[None]
    under = points - over[:, None] * 0.008
    both = np.concatenate([points, under[:, ::-1]], 1)
    both = bones.head_at + both * bones.size @ bones.head_turn.T
    shade = np.array([0.50, 0.17, 0.17]) * (1 + 0.18 * noise3(both, 0.008 * bones.size, 61))[..., None]
    return sheet(both, np.clip(shade, 0.02, 0.9), closed=True)
