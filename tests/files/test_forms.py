"""Every form opens in an independent reader, with its profile, its EXIF and what it says of itself."""

import io
import xml.etree.ElementTree as ET

import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image

from lenskeep.core.engine.encode import LINEAR_BITS
from lenskeep.core.problems import UserProblem
from lenskeep.files.icc import linear_profile, output_profile
from lenskeep.files.reading.photo import read_photo
from lenskeep.files.writing import FORMS, form_of
from lenskeep.files.writing.fields import Said, exif_with, xmp_packet
from tools.made_up import DEMO

SAID = Said(
    author="Jörg Müller",
    rights="© 2026 Müller",
    title="Dünen",
    description="Zwei am Meer & <mehr>",
    place="Strand",
    city="Norddorf",
    country="Deutschland",
)
H, W = 120, 184
FLAT = [name for name, form in FORMS.items() if not form.layered]
DC = "{http://purl.org/dc/elements/1.1/}"


def pixels(form):
    rng = np.random.default_rng(0)
    eight = (
        np.clip(128 + 60 * rng.standard_normal((H // 8, W // 8, 3)), 0, 255).astype(np.uint8).repeat(8, 0).repeat(8, 1)
    )
    return eight if form.encoder.dtype == np.uint8 else eight.astype(np.uint16) * 257 + 3


def exif():
    with Image.open(DEMO / "LKD_0101.jpg") as image:
        own = image.getexif()
    own[0x8825] = {1: "N", 2: (54.0, 40.0, 0.0)}
    return own


@pytest.mark.parametrize("space", ["srgb", "display-p3", "rec2020"])
@pytest.mark.parametrize("name", FLAT)
def test_it_opens_elsewhere_with_its_profile_and_its_pixels(name, space):
    form = FORMS[name]
    true = pixels(form)
    data = form.write(true, 100, exif_with(exif(), SAID), space, xmp_packet(SAID))
    assert data == form.write(true, 100, exif_with(exif(), SAID), space, xmp_packet(SAID)), "the same file every time"
    with Image.open(io.BytesIO(data)) as image:
        image.load()
        profile = linear_profile if name == "tifflinear" else output_profile
        assert image.size == (W, H) and image.info["icc_profile"] == profile(space)
        assert image.getexif()[271] == "Madeup Optics"
        eight = np.asarray(image.convert("RGB"))
    deep = {"png16": imagecodecs.png_decode, "tiff16": imagecodecs.tiff_decode, "tifflinear": imagecodecs.tiff_decode}
    if name in deep:
        assert np.array_equal(deep[name](data), true)
    elif name in ("png", "tiff"):
        assert np.array_equal(eight, true)
    else:
        assert np.abs(eight[4::8, 4::8].astype(int) - true[4::8, 4::8]).mean() < 3  # amid patches: WebP halves colour
    if name.startswith("tiff"):
        page = tifffile.TiffFile(io.BytesIO(data)).pages[0]
        assert page.tags["Artist"].value == SAID.author and page.tags["Copyright"].value == SAID.rights


@pytest.mark.parametrize("name", FLAT)
def test_what_is_said_is_in_the_packet_of_every_form(name):
    data = FORMS[name].write(pixels(FORMS[name]), 90, exif_with(exif(), SAID), "srgb", xmp_packet(SAID))
    with Image.open(io.BytesIO(data)) as image:
        held = image.info.get("xmp") or image.info.get("XML:com.adobe.xmp")
    text = held if isinstance(held, str) else held.decode()
    root = ET.fromstring(text[text.index("?>") + 2 : text.rindex("<?xpacket")])
    said = [
        "".join(node.itertext())
        for name in ("creator", "rights", "title", "description")
        for node in root.iter(DC + name)
    ]
    assert said == [SAID.author, SAID.rights, SAID.title, SAID.description]
    assert {"Strand", "Norddorf", "Deutschland"} <= {node.text for node in root.iter()}


def test_letters_and_the_cameras_place_leave_only_as_wanted():
    own = exif()
    with_place, without = exif_with(own, SAID.model_copy(update={"gps": True})), exif_with(own, SAID)
    assert 0x8825 in with_place and 0x8825 not in without and 0x8825 in own
    data = FORMS["jpeg"].write(pixels(FORMS["jpeg"]), 90, with_place, "srgb", b"")
    with Image.open(io.BytesIO(data)) as image:
        assert image.getexif()[315].encode("latin-1").decode() == SAID.author
        assert "xmp" not in image.info
    assert xmp_packet(Said()) == xmp_packet(Said(gps=True)) == b""


@pytest.mark.parametrize("name", FLAT)
def test_letters_that_the_camera_wrote_leave_as_they_came(name, tmp_path):
    own = Image.Exif()
    own[315], own[271] = "Jörg Müller".encode(), "Küche".encode()
    Image.new("RGB", (W, H)).save(tmp_path / "came.jpg", exif=own)
    came = read_photo(tmp_path / "came.jpg").exif
    for exif in (came, exif_with(came, Said()), exif_with(came, Said(rights="©"))):
        data = FORMS[name].write(pixels(FORMS[name]), 90, exif, "srgb", b"")
        with Image.open(io.BytesIO(data)) as image:
            held = image.getexif()
        assert [held[tag].encode("latin-1").decode() for tag in (315, 271)] == ["Jörg Müller", "Küche"]
    assert came[315].encode("latin-1").decode() == "Jörg Müller", "what came in is not altered"


def test_an_ending_names_a_form():
    assert [form_of(e).name for e in (".JPG", ".jpeg", ".png", ".tiff", ".avif")] == [
        "jpeg",
        "jpeg",
        "png",
        "tiff",
        "avif",
    ]
    with pytest.raises(UserProblem, match="by its ending"):
        form_of(".gif")


@pytest.mark.parametrize("space", ["srgb", "display-p3", "rec2020"])
def test_a_linear_master_reads_back_as_the_light_that_it_is(space, tmp_path):
    ramp = np.linspace(0.0, 1.0, 256, dtype=np.float32)[None, :, None].repeat(16, 0).repeat(3, 2)
    out = np.empty(ramp.shape, np.uint16)
    LINEAR_BITS.rows(np.ascontiguousarray(ramp), out, space)
    (tmp_path / "master.tif").write_bytes(FORMS["tifflinear"].write(out, 90, None, space, b""))
    photo = read_photo(tmp_path / "master.tif")
    assert photo.rows(0, 16) == pytest.approx(ramp, abs=2e-4), "half of the light is half of the number"
    if space == "rec2020":
        assert out[0, 128, 0] == pytest.approx(65535 * ramp[0, 128, 0], abs=1)
