"""Forms in which finished frames leave, one file each. To add one: write its file and list it here."""

from lenskeep.files.writing.form import Form
from lenskeep.files.writing.jpeg import JPEG
from lenskeep.files.writing.png import PNG, PNG16

FORMS: dict[str, Form] = {form.name: form for form in (JPEG, PNG, PNG16)}
"""Every form by its name, in the order the interface lists them."""

__all__ = ["FORMS", "Form"]
