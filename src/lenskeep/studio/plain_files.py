"""Plain files without a library: find and render along the same path as a shoot."""

from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np

from lenskeep.core.assets import Assets
from lenskeep.core.clean.applied import filled
from lenskeep.core.detect.find import Findings, find
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.engine.program import staged
from lenskeep.core.facts import Facts
from lenskeep.core.plan import Plan
from lenskeep.core.problems import UserProblem
from lenskeep.core.render import Cut, Frame, compile_plan, render, render_cut
from lenskeep.core.types import SRGB8, LinearRGB
from lenskeep.files.masks import full_size_mask, mask_bytes, mask_of_upload
from lenskeep.files.reading.photo import Photo, read_photo, to_srgb8
from lenskeep.files.writing import Form
from lenskeep.files.writing.openraster import openraster_bytes
from lenskeep.files.written import sum_of, write_beside
from lenskeep.studio.tasks.find import detectors
from lenskeep.studio.tasks.frame_files import framed
from lenskeep.studio.tasks.layered import layers

THREADS = 2


def _found(path: Path) -> tuple[Photo, LinearRGB, Findings]:
    photo = read_photo(path)
    proxy = photo.reduced(PROXY_SIDE)
    return photo, proxy, find(to_srgb8(proxy), detectors(THREADS), (photo.height, photo.width))


def found_on_file(path: Path) -> tuple[Photo, Frame]:
    """A photograph, and the frame of it that plans are compiled for. Raises PhotoProblem."""
    photo, proxy, found = _found(path)
    return photo, framed(proxy, found, photo.height, photo.width, sum_of(path))  # named by its content


def small_picture(small: LinearRGB, frame: Frame, plan: Plan, assets: Assets) -> SRGB8:
    """A small untouched picture of a frame with a plan."""
    frame.found.assets = assets
    h, w = small.shape[:2]
    pixels = render(compile_plan(plan, frame), lambda a, b: small[a:b].copy(), h, w, THREADS)
    return np.asarray(pixels, np.uint8)


def check_targets(paths: list[Path], out: Path) -> dict[Path, str]:
    """A name without ending for what each file becomes in ``out``: its own, numbered where two are the same.

    Raises UserProblem when ``out`` can't be a folder.
    """
    try:
        if out.exists() and not out.is_dir():
            raise UserProblem(f"{out} is a file, not a folder.")
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise UserProblem(f"{out} can't be written to: {error.strerror or error}.") from error
    names: dict[Path, str] = {}
    used: set[str] = set()
    for path in paths:
        name, number = path.stem, 2
        while name.lower() in used:
            name, number = f"{path.stem}-{number}", number + 1
        used.add(name.lower())
        names[path] = name
    return names


def check_not_itself(path: Path, target: Path) -> None:
    """Raises UserProblem when a photograph would be replaced by what is made of it."""
    if target.exists() and path.exists() and target.samefile(path):
        raise UserProblem(f"{target} is the photograph itself. Choose another folder with --out.")


def detect_file(path: Path, out: Path, name: str) -> tuple[Facts, list[str]]:
    """Write NAME.subject.png, NAME.sky.png and so on (8-bit, the photograph's size) and NAME.json; masks with nothing
    in them only for subject and sky. Nothing is replaced: names that are taken are numbered. Returns the facts, and who
    was found or refused and why. Raises PhotoProblem.
    """
    photo, proxy, found = _found(path)
    for kind, mask in found.masks.items():
        write_beside(out / f"{name}.{kind}.png", mask_bytes(full_size_mask(mask, proxy, photo)))
    write_beside(out / f"{name}.json", (found.facts.model_dump_json(indent=2) + "\n").encode())
    return found.facts, found.who


def render_file(
    path: Path, plan: Plan, assets: Assets, target: Path, form: Form, quality: int, cut: Cut | None = None
) -> Path:
    """Write the finished file, or a ``cut`` of it as it would leave; a form with layers gets one for each step. Returns
    where it is: at ``target``, or beside it when that is taken.

    Raises UserProblem.
    """
    check_not_itself(path, target)
    if cut is not None and form.layered:
        raise UserProblem(f"A cut has no layers. Leave --cut away, or choose another form than {form.name}.")
    photo, frame = found_on_file(path)
    if cut is not None:
        check_cut(cut, photo, path.name)
    frame.found.assets = assets
    if form.layered:
        return write_beside(target, openraster_bytes(layers(photo, photo, frame, plan, "srgb"), "srgb"))
    part = cut or Cut(0, 0, photo.width, photo.height)
    stages = compile_plan(plan, frame)
    pixels = render_cut(stages, photo.block, part, photo.height, photo.width, THREADS, encoder=form.encoder)
    return write_beside(target, form.write(pixels, quality, photo.exif, "srgb", b""))


def heal_file(path: Path, marks: Path, target: Path, form: Form, quality: int) -> tuple[Path, int]:
    """Write a photograph with everything healed that a grey PNG marks white; returns where it is, and how many marks
    there were. Nothing is replaced. Raises UserProblem.
    """
    check_not_itself(path, target)
    photo = read_photo(path)
    mask = mask_of_upload(marks.read_bytes(), marks.name)
    if mask.shape != (photo.height, photo.width):
        if abs(mask.shape[1] / mask.shape[0] - photo.width / photo.height) > 0.01:
            raise UserProblem(
                f"{marks.name} has another shape than {path.name}. Draw the marks on the photograph itself."
            )
        mask = np.asarray(cv2.resize(mask, (photo.width, photo.height), interpolation=cv2.INTER_LINEAR), np.uint8)
    if not (mask > 127).any():
        raise UserProblem(f"{marks.name} marks nothing: paint white over what should go.")
    pixels, count = filled(photo.pixels, mask.astype(np.float32) / np.float32(255.0), bool(photo.base))
    clean = replace(photo, pixels=pixels)
    rows = render(staged([]), clean.rows, photo.height, photo.width, THREADS, encoder=form.encoder)
    return write_beside(target, form.write(rows, quality, photo.exif, "srgb", b"")), count


def check_cut(cut: Cut, photo: Photo, name: str) -> None:
    """Raises UserProblem when a cut does not lie on the photograph."""
    if cut.x + cut.width > photo.width or cut.y + cut.height > photo.height:
        raise UserProblem(f"{name} is {photo.width} × {photo.height} pixels; the cut reaches over its edge.")
