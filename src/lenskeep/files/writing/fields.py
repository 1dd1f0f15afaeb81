"""What a delivered file says of itself: author, rights, title, places, in EXIF (CIPA DC-008) and in an XMP packet (ISO
16684-1) with the fields of IPTC Core and Extension 2023.1.
"""

from xml.etree import ElementTree

from PIL import ExifTags, Image
from pydantic import BaseModel, ConfigDict, Field, field_validator

from lenskeep.core.names import shown_text
from lenskeep.files.reading.exif import copied

NAMESPACES = {
    "x": "adobe:ns:meta/",
    "rdf": "http://www.w3.org/1999/02/22-rdf-syntax-ns#",
    "dc": "http://purl.org/dc/elements/1.1/",
    "xmpRights": "http://ns.adobe.com/xap/1.0/rights/",
    "Iptc4xmpCore": "http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/",
    "Iptc4xmpExt": "http://iptc.org/std/Iptc4xmpExt/2008-02-29/",
}
"""The standards' own names."""
MOST = 300
_GPS = ExifTags.IFD.GPSInfo.value
_ARTIST, _COPYRIGHT = ExifTags.Base.Artist.value, ExifTags.Base.Copyright.value
_DESCRIPTION = ExifTags.Base.ImageDescription.value


class Said(BaseModel):
    """Texts, "" where nothing is to be said. ``gps``: whether the place that the camera wrote down may leave, which
    has to be asked for.
    """

    model_config = ConfigDict(frozen=True)
    author: str = Field(default="", max_length=MOST)
    rights: str = Field(default="", max_length=MOST)
    title: str = Field(default="", max_length=MOST)
    description: str = Field(default="", max_length=MOST)
    place: str = Field(default="", max_length=MOST)
    city: str = Field(default="", max_length=MOST)
    country: str = Field(default="", max_length=MOST)
    gps: bool = False

    @field_validator("*", mode="before")
    @classmethod
    def _can_be_written(cls, value: object) -> object:
        """XML and EXIF have no place for control characters."""
        return shown_text(value).replace("\n", " ") if isinstance(value, str) else value

    @property
    def says_something(self) -> bool:
        return any(text for name, text in self if name != "gps")


NOTHING_SAID = Said()


def exif_with(exif: Image.Exif, said: Said) -> Image.Exif:
    """A copy of a photograph's EXIF that says this too; without the camera's place, unless that may leave."""
    copy = copied(exif)
    if not said.gps and _GPS in copy:
        del copy[_GPS]
    for tag, text in ((_ARTIST, said.author), (_COPYRIGHT, said.rights), (_DESCRIPTION, said.title)):
        if text:
            copy[tag] = text.encode()  # EXIF has no letters beyond ASCII; readers take UTF-8
    return copy


def xmp_packet(said: Said) -> bytes:
    """The packet, between its processing instructions; b"" where nothing is said."""
    if not said.says_something:
        return b""
    for prefix, name in NAMESPACES.items():
        ElementTree.register_namespace(prefix, name)
    root = ElementTree.Element(_named("x:xmpmeta"))
    about = ElementTree.SubElement(
        ElementTree.SubElement(root, _named("rdf:RDF")), _named("rdf:Description"), {_named("rdf:about"): ""}
    )
    if said.author:
        _listed(about, "dc:creator", "rdf:Seq", said.author)
    for name, text in (("dc:rights", said.rights), ("dc:title", said.title), ("dc:description", said.description)):
        if text:
            _listed(about, name, "rdf:Alt", text, {"{http://www.w3.org/XML/1998/namespace}lang": "x-default"})
    if said.rights:
        ElementTree.SubElement(about, _named("xmpRights:Marked")).text = "True"
    if said.place:
        ElementTree.SubElement(about, _named("Iptc4xmpCore:Location")).text = said.place
    if said.place or said.city or said.country:
        bag = ElementTree.SubElement(
            ElementTree.SubElement(about, _named("Iptc4xmpExt:LocationCreated")), _named("rdf:Bag")
        )
        made = ElementTree.SubElement(bag, _named("rdf:li"), {_named("rdf:parseType"): "Resource"})
        for name, text in (("Sublocation", said.place), ("City", said.city), ("CountryName", said.country)):
            if text:
                ElementTree.SubElement(made, _named(f"Iptc4xmpExt:{name}")).text = text
    text = ElementTree.tostring(root, encoding="unicode")
    return f'<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>{text}<?xpacket end="w"?>'.encode()


def _named(name: str) -> str:
    prefix, local = name.split(":")
    return f"{{{NAMESPACES[prefix]}}}{local}"


def _listed(about: ElementTree.Element, name: str, kind: str, text: str, more: dict[str, str] | None = None) -> None:
    inner = ElementTree.SubElement(ElementTree.SubElement(about, _named(name)), _named(kind))
    ElementTree.SubElement(inner, _named("rdf:li"), more or {}).text = text
