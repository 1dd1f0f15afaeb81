"""What kills have done: how many, during what, and what was not as it should be."""

from collections import Counter
from dataclasses import dataclass, field


@dataclass
class Table:
    """What happened, by kind of kill."""

    kills: Counter[str] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)
    seconds: dict[str, float] = field(default_factory=dict)

    def fault(self, when: str, what: str) -> None:
        self.faults.append(f"{when}: {what}")
        print(f"  FAULT {when}: {what}", flush=True)

    def show(self) -> None:
        print(f"  {'killed during':32s} {'kills':>6s} {'faults':>7s}")
        for kind, count in self.kills.items():
            own = sum(f.startswith(kind) for f in self.faults)
            print(f"  {kind:32s} {count:6d} {own:7d}")
        print(f"  {'together':32s} {sum(self.kills.values()):6d} {len(self.faults):7d}", flush=True)
