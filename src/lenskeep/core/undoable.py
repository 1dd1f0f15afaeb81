"""What is done to one frame, deed by deed, and can be taken back."""

from typing import Any, Self

from pydantic import BaseModel, ConfigDict


class Undoable(BaseModel):
    """Deeds in the order they were made in; ``undone`` are those taken back last, the newest first, until another is
    made.
    """

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    done: tuple[Any, ...] = ()
    undone: tuple[Any, ...] = ()

    def undo(self) -> Self:
        if not self.done:
            return self
        return type(self)(done=self.done[:-1], undone=(self.done[-1], *self.undone))

    def redo(self) -> Self:
        if not self.undone:
            return self
        return type(self)(done=(*self.done, self.undone[0]), undone=self.undone[1:])
