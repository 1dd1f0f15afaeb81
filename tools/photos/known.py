"""What is known about a made photograph: soft masks by kind, boxes of the subjects, and the line where the sky ends."""

import numpy as np

KINDS = {"person": "people", "animal": "animals", "thing": "things", "crowd": "people"}
BYSTANDERS = "crowd"
LEAST_AREA = 0.0004


def masks(covers):
    """{"subject", "sky" where there is one, and each kind in it}: covers (h, w) summed by kind, 0…1.

    A crowd out of focus behind the subject is people, but not subject.
    """
    out, subject = {}, np.zeros(next(iter(covers.values())).shape, np.float32)
    for name, cover in covers.items():
        kind = "sky" if name == "sky" else KINDS[name.split()[0]]
        out[kind] = np.clip(out.get(kind, 0) + cover, 0, 1)
        if kind != "sky" and not name.startswith(BYSTANDERS):
            subject = subject + cover
    out["subject"] = np.clip(subject, 0, 1)
    return out


def boxes(covers):
    """[{"kind", "box": [x0, y0, x1, y1] in 0…1}] of the subjects that cover at least a little, largest first."""
    out = []
    for name, cover in covers.items():
        inside = cover >= 0.5
        if name == "sky" or name.startswith(BYSTANDERS) or inside.mean() < LEAST_AREA:
            continue
        rows, columns = np.flatnonzero(inside.any(1)), np.flatnonzero(inside.any(0))
        height, width = cover.shape
        box = [columns[0] / width, rows[0] / height, (columns[-1] + 1) / width, (rows[-1] + 1) / height]
        out.append(
            {
                "kind": KINDS[name.split()[0]],
                "area": round(float(inside.mean()), 5),
                "box": [round(float(v), 4) for v in box],
            }
        )
    return sorted(out, key=lambda one: -one["area"])


def skyline(sky, subject):
    """[left, right] in shares of the height: the median line (Theil–Sen) through the sky's lower border, or None.

    Columns whose border is covered by the subject, or that have no sky, are left out.
    """
    height, width = sky.shape
    inside = sky >= 0.5
    x = np.flatnonzero(inside.any(0))
    low = height - 1 - np.argmax(inside[::-1, x], 0)
    below = subject[np.minimum(low + 3, height - 1), x] if len(x) else low
    kept = (low < height - 3) & (below < 0.5)
    x, y = x[kept] / width, (low[kept] + 1) / height
    if len(x) < width / 6:
        return None
    half = len(x) // 2
    slope = np.median((y[half:][:half] - y[:half]) / (x[half:][:half] - x[:half] + 1e-9))
    level = np.median(y - slope * x)
    return [round(float(level), 4), round(float(level + slope), 4)]
