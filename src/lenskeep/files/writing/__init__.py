"""Forms in which finished frames leave, one file each. To add one: write its file and list it here."""

from lenskeep.core.problems import UserProblem
from lenskeep.files.writing.form import Form
from lenskeep.files.writing.jpeg import JPEG
from lenskeep.files.writing.openraster import OPENRASTER
from lenskeep.files.writing.png import PNG, PNG16
from lenskeep.files.writing.tiff import TIFF, TIFF16, TIFF_LINEAR
from lenskeep.files.writing.webp import AVIF, WEBP

FORMS: dict[str, Form] = {
    form.name: form for form in (JPEG, PNG, PNG16, TIFF, TIFF16, TIFF_LINEAR, WEBP, AVIF, OPENRASTER)
}
"""Every form by its name, in the order the interface lists them."""
_ENDINGS = {".jpeg": ".jpg", ".tiff": ".tif"}


def form_of(suffix: str) -> Form:
    """The form that an ending names, the plainest of several. Raises UserProblem for one that none has."""
    ending = _ENDINGS.get(suffix.lower(), suffix.lower())
    for form in FORMS.values():
        if form.suffix == ending:
            return form
    known = ", ".join(dict.fromkeys(form.suffix for form in FORMS.values()))
    raise UserProblem(f"Say by its ending what kind of file it should be: {known}.")


__all__ = ["FORMS", "Form", "form_of"]
