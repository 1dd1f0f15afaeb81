"""Names by which parts, adjustments, steps and groups are spoken of, and giving them to what has none."""

from typing import Annotated, ClassVar, TypeVar

from pydantic import BaseModel, Field

Identifier = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[A-Za-z0-9_-]+$")]
OwnId = Annotated[str, Field(max_length=40, pattern=r"^[A-Za-z0-9_-]*$")]
"""The id of a part or an adjustment within its list; "" until it is put into one."""


class HasId(BaseModel):
    """What has an id within its list."""

    later: ClassVar[tuple[str, ...]] = ()
    """Fields that came after recipes were made with it: while they are neutral they are left out of the picture's key,
    so that what was finished before stays finished."""
    id: OwnId = ""

    def unshown(self) -> set[str]:
        """Fields that make no difference to the picture: its id, and what came later and is neutral."""
        fields = type(self).model_fields
        return {"id", *(name for name in self.later if getattr(self, name) == fields[name].default)}


T = TypeVar("T", bound=HasId)


def identified(items: list[T], letter: str) -> list[T]:
    """The same with an id each: their own, or a letter and the lowest number that is free, from the first on.

    Raises ValueError where two have the same.
    """
    own = [item.id for item in items if item.id]
    if len(set(own)) != len(own):
        raise ValueError("two of a list have the same id")
    taken, number, out = set(own), 1, []
    for item in items:
        if not item.id:
            while f"{letter}{number}" in taken:
                number += 1
            taken.add(f"{letter}{number}")
            item = item.model_copy(update={"id": f"{letter}{number}"})
        out.append(item)
    return out
