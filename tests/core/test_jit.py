"""For which processor kernels are compiled."""

import os
import subprocess
import sys

import llvmlite.binding as llvm
import pytest
from numba.core.registry import cpu_target

from lenskeep.core.jit import config

WIDE = ",-prefer-256-bit"
SAYS = "from lenskeep.core.jit import config; print(config.CPU_FEATURES)"


def _told(**environment: str) -> str:
    env = {k: v for k, v in os.environ.items() if not k.startswith("NUMBA_")} | environment
    return subprocess.run([sys.executable, "-c", SAYS], env=env, capture_output=True, text=True, check=True).stdout


@pytest.mark.skipif("NUMBA_CPU_FEATURES" in os.environ, reason="somebody chose the features by hand")
def test_kernels_are_compiled_for_whole_vectors_where_there_are_any():
    _triple, _name, features = cpu_target.target_context.codegen().magic_tuple()
    wide = llvm.get_host_cpu_features().get("avx512f", False)
    assert features.endswith(WIDE) == wide, "said before the first kernel was defined, or it counts for none"
    assert (config.CPU_FEATURES is not None) == wide


def test_a_users_own_features_go_first():
    assert _told(NUMBA_CPU_FEATURES="+sse4.2").strip() == "+sse4.2"
    assert WIDE not in _told(NUMBA_CPU_NAME="generic")
    assert WIDE not in _told(NUMBA_ENABLE_AVX="0")
