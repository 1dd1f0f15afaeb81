"""What is another in one recipe than in another, in words: what a scene gets that is moved on to a newer version."""

from collections.abc import Iterator

from lenskeep.core.recipes.models import Recipe, Step


def differences(old: Recipe, new: Recipe) -> list[str]:
    """A sentence for each step that was added, taken out, moved or changed, in the new one's order; empty for none."""
    before, after = {s.id: s for s in old.steps}, {s.id: s for s in new.steps}
    said = [f"“{s.name}” is gone." for i, s in before.items() if i not in after]
    kept_before = [i for i in before if i in after]
    kept_after = [i for i in after if i in before]
    for i, step in after.items():
        if i not in before:
            said.append(f"“{step.name}” is new: {_does(step)}.")
            continue
        changes = list(_changes(before[i], step, old, new))
        if kept_before.index(i) != kept_after.index(i) and not changes:
            changes = ["stands elsewhere in the order"]
        if changes:
            said.append(f"“{step.name}”: {', '.join(changes)}.")
    if old.strength != new.strength:
        said.append(f"The whole recipe at {round(100 * new.strength)} % instead of {round(100 * old.strength)} %.")
    return said


def _changes(before: Step, after: Step, old: Recipe, new: Recipe) -> Iterator[str]:
    if before.name != after.name:
        yield f"was called “{before.name}”"
    if before.enabled != after.enabled:
        yield "on" if after.enabled else "off"
    if before.strength != after.strength:
        yield f"strength {round(100 * after.strength)} % instead of {round(100 * before.strength)} %"
    if old.region_of(before) != new.region_of(after) or old.limit_of(before) != new.limit_of(after):
        yield f"works in {new.sentence(after)}"
    if before.blend != after.blend:
        yield f"blended by {after.blend}"
    was, now = {a.id: a for a in before.adjustments}, {a.id: a for a in after.adjustments}
    yield from (f"without {a.label.lower()}" for i, a in was.items() if i not in now)
    yield from (a.words() for i, a in now.items() if was.get(i) != a)


def _does(step: Step) -> str:
    return ", ".join(a.words() for a in step.adjustments) or "nothing yet"
