"""A described frame as bytes, about a megabyte, so that a scene's frames can be described one by one."""

import io
import json
import zipfile

import numpy as np

from lenskeep.core.even.described import Described

VERSION = 1


def packed(frame: Described) -> bytes:
    """A compressed NPZ; pixels in half precision, which is finer than what is measured on them."""
    parts = {
        "version": VERSION,
        "quantiles": [[name, share, lost] for name, (share, _, lost) in frame.quantiles.items()],
        "cells": [[part, kind, share, len(means)] for (part, kind), (share, means) in frame.cells.items()],
        "shape": list(frame.burnt.shape),
    }
    values = [values for _, values, _ in frame.quantiles.values()]
    means = [means for _, means in frame.cells.values()]
    out = io.BytesIO()
    np.savez_compressed(
        out,
        told=np.frombuffer(json.dumps(parts).encode(), np.uint8),
        params=frame.params.astype(np.float16),
        burnt=np.packbits(frame.burnt),
        dark=np.packbits(frame.dark),
        quantiles=np.array(values, np.float64),
        cells=np.concatenate(means).astype(np.float32) if means else np.zeros((0, 3), np.float32),
        places=frame.places,
        descriptors=np.rint(frame.descriptors).astype(np.uint8),
    )
    return out.getvalue()


def unpacked(data: bytes) -> Described:
    """The frame again. Raises ValueError where the bytes are none."""
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as held:
            told = json.loads(held["told"].tobytes())
            if told["version"] != VERSION:
                raise ValueError("described by another version")
            h, w = told["shape"]
            burnt, dark = (np.unpackbits(held[n], count=h * w).reshape(h, w).astype(bool) for n in ("burnt", "dark"))
            frame = Described(held["params"].astype(np.float32), burnt, dark)
            for (name, share, lost), values in zip(told["quantiles"], held["quantiles"], strict=True):
                frame.quantiles[name] = (share, values, lost)
            first, cells = 0, held["cells"]
            for part, kind, share, count in told["cells"]:
                frame.cells[part, kind] = (share, cells[first : first + count])
                first += count
            frame.places, frame.descriptors = held["places"], held["descriptors"].astype(np.float32)
            return frame
    except (KeyError, OSError, EOFError, TypeError, zipfile.BadZipFile) as error:
        raise ValueError("not a described frame") from error
