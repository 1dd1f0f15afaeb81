"""How kernels are compiled: what every module that has some takes its ``njit`` and its options from.

The compiler would rather use half of what processors with 512-bit vectors have, for fear that they clock lower; whole
vectors make a frame of 24 megapixels in 390 ms where halves take 460 (six steps, a core of a Cascade Lake, which does
clock lower). Which it is changes no pixel: each is rounded by itself (``rowmath.LANES``). A user's own
``NUMBA_CPU_FEATURES`` goes first. Numba reads this once, when it first compiles, so that it is said here, before any
kernel is defined.
"""

import sys
from contextlib import suppress
from typing import Any

import llvmlite.binding as llvm  # type: ignore[import-untyped]
import numba
from numba import njit
from numba.core.dispatcher import Dispatcher

config: Any = numba.config
__all__ = ["JIT", "PLAIN", "compiler", "kernels_of", "njit"]
PLAIN: dict[str, Any] = {"nogil": True, "cache": True, "error_model": "numpy"}
"""How kernels are compiled that round as they are written; ``JIT`` those whose sums and products may change places."""
JIT: dict[str, Any] = PLAIN | {"fastmath": {"contract", "arcp", "nsz", "reassoc"}}


def _features() -> str | None:
    """What Numba is to know of this processor: what it or the user has set, and that all of its vectors' width may be
    used where that is 512 bits and nobody, nor Numba's own switch for old processors, says otherwise.
    """
    if config.CPU_FEATURES is None and config.CPU_NAME is None and config.ENABLE_AVX:
        with suppress(RuntimeError):  # an unknown processor: as Numba would take it
            features = llvm.get_host_cpu_features()
            if features.get("avx512f"):
                return str(features.flatten()) + ",-prefer-256-bit"
    found: str | None = config.CPU_FEATURES
    return found


config.CPU_FEATURES = _features()


def compiler() -> str:
    """What, beside their sources, kernels are compiled by and for."""
    name = config.CPU_NAME or llvm.get_host_cpu_name()
    return f"{numba.__version__} {llvm.llvm_version_info} {name} {config.CPU_FEATURES}"


def kernels_of(package: str) -> list[Dispatcher]:
    """Those of the modules of a package that are loaded."""
    modules = [module for name, module in sys.modules.items() if name.startswith(package)]
    return list({one for module in modules for one in vars(module).values() if isinstance(one, Dispatcher)})
