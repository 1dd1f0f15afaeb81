"""Path tracing with Mitsuba 3, denoising with OIDN, and true masks counted sample by sample.

Needs an LLVM that Mitsuba accepts (see README). One scene a process: a run that crashes is started again by the caller.
"""

import tempfile
import time
from dataclasses import replace
from pathlib import Path

import numpy as np

from tools.photos.skies import Sky

VARIANT = "llvm_ad_rgb"
MASK_SAMPLES = 64
MASK_SHARE = 0.5
DEPTH = 5
RAW_SHARE = 0.05
VEIL_OPACITY = 0.42
FIREFLY = 60.0
COLOUR = {"type": "mesh_attribute", "name": "vertex_color"}


def _two_sided(**values):
    return {"type": "twosided", "b": {"type": "principled", "base_color": COLOUR, **values}}


def _thin(**values):
    return {"type": "principledthin", "base_color": COLOUR, "spec_trans": 0.0, **values}


MATERIALS = {
    "matte": _two_sided(roughness=0.9, specular=0.2),
    "satin": _two_sided(roughness=0.55, specular=0.5),
    "gloss": _two_sided(roughness=0.25, specular=0.5),
    "water": _two_sided(roughness=0.12, specular=0.6),
    "cloth": _two_sided(roughness=0.8, specular=0.3, sheen=0.6),
    "skin": _two_sided(roughness=0.45, specular=0.4),
    "wet": _two_sided(roughness=0.06, specular=0.4, clearcoat=0.15, clearcoat_gloss=0.95),
    "nose": _two_sided(roughness=0.4, specular=0.6),
    "leaf": _thin(roughness=0.55, diff_trans=0.9, eta=1.4),
    "petal": _thin(roughness=0.6, diff_trans=0.6, eta=1.4),
    "dress": _thin(roughness=0.7, diff_trans=0.4, sheen=0.4),
    "fur": _thin(roughness=0.45, diff_trans=0.7, eta=1.45),
    "veil": {"type": "mask", "opacity": VEIL_OPACITY, "b": _thin(roughness=0.7, diff_trans=1.0)},
}


def traced(scene, samples, seed=0, say=print):
    """{"img" linear (h, w, 3), "z" depth in metres (h, w), at half the size "sky" and a cover a subject, 0…1}."""
    import mitsuba as mi

    mi.set_variant(VARIANT)
    with tempfile.TemporaryDirectory() as folder:
        started = time.time()
        world = mi.load_dict(_described(mi, scene, Path(folder)))
        loaded = time.time()
        total = _sampled(mi, world, scene, samples, seed)
        rendered = time.time()
        out = {"img": _denoised(total), "z": total[..., 10].astype(np.float32)}
        cleaned = time.time()
        out |= _covers(mi, world, scene)
        if any(thing.material == "veil" for thing in scene.things):
            # rays stop at a veil however thin it is: what is behind shows through the rest
            del world
            bare = replace(scene, things=[thing for thing in scene.things if thing.material != "veil"])
            behind = _covers(mi, mi.load_dict(_described(mi, bare, Path(folder))), bare)
            out |= {name: VEIL_OPACITY * out[name] + (1 - VEIL_OPACITY) * behind[name] for name in behind}
        times = (loaded - started, rendered - loaded, cleaned - rendered, time.time() - cleaned)
        say("load {:.0f} s, render {:.0f} s, denoise {:.0f} s, masks {:.0f} s".format(*times))
    return out


def _described(mi, scene, folder):
    out = {"type": "scene"}
    if isinstance(scene.sky, tuple):
        out["sky"] = {"type": "constant", "radiance": {"type": "rgb", "value": list(scene.sky)}}
    else:
        path = folder / "sky.exr"
        mi.Bitmap(scene.sky.picture()).write(str(path))
        # Mitsuba looks skies up with y up; this makes z up and the picture's centre +y
        turned = np.array([[-1, 0, 0, 0], [0, 0, 1, 0], [0, 1, 0, 0], [0, 0, 0, 1.0]])
        out["sky"] = {"type": "envmap", "filename": str(path), "to_world": mi.ScalarTransform4f(turned)}
    for number, thing in enumerate(scene.things):
        path = folder / f"{number}.ply"
        thing.mesh.write_ply(path, thing.smooth)
        out[f"t{number}"] = {"type": "ply", "filename": str(path), "bsdf": MATERIALS[thing.material]}
    for number, lamp in enumerate(scene.lamps):
        light = {"type": "area", "radiance": {"type": "rgb", "value": list(lamp.radiance)}}
        if lamp.towards is None:
            shape = {"type": "sphere", "center": list(lamp.position), "radius": lamp.size}
        else:
            place = mi.ScalarTransform4f().look_at(list(lamp.position), list(lamp.towards), [0, 0, 1])
            shape = {"type": "rectangle", "to_world": place @ mi.ScalarTransform4f().scale(lamp.size)}
        out[f"l{number}"] = {**shape, "emitter": light, "bsdf": {"type": "diffuse"}}
    return out


def _sensor(mi, camera, share=1.0):
    width, height = (round(side * share) for side in camera.size())
    up = [float(np.sin(np.radians(camera.roll))), 0, float(np.cos(np.radians(camera.roll)))]
    return mi.load_dict({
        "type": "thinlens", "fov": camera.view, "fov_axis": "larger", "aperture_radius": camera.aperture,
        "focus_distance": camera.focus, "near_clip": 0.05, "far_clip": 1e5,
        "to_world": mi.ScalarTransform4f().look_at(list(camera.eye), list(camera.target), up),
        "film": {"type": "hdrfilm", "width": width, "height": height, "pixel_format": "rgba",
                 "rfilter": {"type": "box"}},
        "sampler": {"type": "independent"},
    })  # fmt: skip


def _sampled(mi, world, scene, samples, seed):
    """Mean of passes of four samples, each clamped so that a stray bright path does not show."""
    path = {"type": "path", "max_depth": DEPTH, "rr_depth": 4}
    integrator = mi.load_dict({"type": "aov", "aovs": "al:albedo,nn:sh_normal,dd:depth", "p": path})
    sensor = _sensor(mi, scene.camera)
    total, done = 0, 0
    while done < samples:
        count = min(4, samples - done)
        part = np.array(mi.render(world, sensor=sensor, integrator=integrator, spp=count, seed=1000 * seed + done + 1))
        part[~np.isfinite(part)] = 0
        brightest = part[..., :3].max(-1, keepdims=True)
        part[..., :3] *= np.minimum(1, FIREFLY / np.maximum(brightest, 1e-6))
        total, done = total + part * count, done + count
    return total / samples


def _denoised(total):
    import pyoidn

    colour, albedo = total[..., :3].astype(np.float32), np.clip(total[..., 4:7], 0, 1).astype(np.float32)
    normal = np.clip(total[..., 7:10], -1, 1).astype(np.float32)
    planes = [np.ascontiguousarray(plane) for plane in (colour, albedo, normal)]
    clean = pyoidn.denoise(*planes, hdr=True)
    return clean * (1 - RAW_SHARE) + np.minimum(colour, clean * 3 + 0.05) * RAW_SHARE


def _covers(mi, world, scene):
    """Share of one-sample passes that meet each subject, and the sky; blur, fur and grass in front are all in it."""
    import drjit as dr

    names = scene.subjects()
    number_of = {f"t{i}": names.index(t.subject) + 1 for i, t in enumerate(scene.things) if t.subject}
    table = np.zeros(65536, np.uint8)
    for shape in world.shapes():
        if shape.id() in number_of:
            table[int(dr.reinterpret_array(mi.UInt32, mi.ShapePtr(shape))[0])] = number_of[shape.id()]
    sensor = _sensor(mi, scene.camera, MASK_SHARE)
    integrator = mi.load_dict({"type": "aov", "aovs": "si:shape_index,dd:depth"})
    width, height = (round(side * MASK_SHARE) for side in scene.camera.size())
    counts = np.zeros((len(names) + 1, height, width), np.uint8)
    for k in range(MASK_SAMPLES):
        seen = np.array(mi.render(world, sensor=sensor, integrator=integrator, spp=1, seed=100 + k))
        hit = seen[..., -1] > 0
        index = table[np.clip(np.rint(seen[..., -2]).astype(int), 0, len(table) - 1)]
        counts[0] += ~hit
        for number in range(1, len(names) + 1):
            counts[number] += hit & (index == number)
    shares = counts.astype(np.float32) / MASK_SAMPLES
    return (
        dict(zip(["sky", *names], shares, strict=True))
        if isinstance(scene.sky, Sky)
        else dict(zip(names, shares[1:], strict=True))
    )
