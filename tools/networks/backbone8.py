"""The scene's backbone in 8 bits, as it ships. Usage: python -m tools.networks.backbone8 SOURCE.onnx PHOTOS OUT.xml

EfficientNet-Lite2 as ``tools/sky_decoder/export_backbone.py`` writes it, first made plain: paddings that are worked out
anew in every run become numbers of the convolutions (nothing else lets these run in 8 bits), lower and upper bounds
become one clamp, and the output at half size that nothing reads goes. Up to here every number stays the same. Then
NNCF 3.4 quantises it after training, but for the first blocks, whose few channels differ most in range (with them in 8
bits the later stages are off by 17 %, without by 4 %, and they cost no time), and the sums of branches.
PHOTOS are those that detectors are tuned on; the demo's are not among them.
"""

import sys
from pathlib import Path

import cv2
import nncf
import numpy as np
import openvino as ov
from openvino import opset13 as ops

from lenskeep.core.detect.tensors import backbone_input
from tools.networks.plainer import constant_last, numbers, put_for, read, with_pads
from tools.networks.saliency8 import views

SIZE = (448, 640)
"""Any; paddings are the same for all."""
SIDES = (384, 640, 896)
"""Long sides that the network is shown in finding."""
LEFT = ("/_conv_stem/", *(f"/_blocks.{k}/" for k in range(5)))


def _clamped(node):
    """One clamp for what is bounded above by ``node``, and below by what feeds it."""
    below, upper = constant_last(node)
    x, lower = constant_last(below.get_node())
    assert below.get_node().get_type_name() == "Maximum"
    return ops.clamp(x, float(numbers(lower).item()), float(numbers(upper).item()))


def plain(path):
    """The same network, number for number, in plainer words; its stages from a quarter of the size on."""
    model = read(path, [1, 3, *SIZE])
    with_pads(model)
    for node in model.get_ordered_ops():
        if node.get_type_name() == "Minimum":
            put_for(node, _clamped(node))
    stages = [stage.get_node().input_value(0) for stage in model.outputs[1:]]
    out = ov.Model(stages, model.get_parameters())
    out.reshape([1, 3, -1, -1])
    return out


def main(source, photos, out):
    pictures = [cv2.imread(str(path))[..., ::-1] for path in sorted(Path(photos).glob("*.jpg"))]
    shown = [(view, SIDES[k % len(SIDES)]) for picture in pictures for k, view in enumerate(views(picture))]
    fed = [{"x": backbone_input(np.ascontiguousarray(view), side)} for view, side in shown]
    model = plain(source)
    left = [op.get_friendly_name() for op in model.get_ordered_ops() if op.get_friendly_name().startswith(LEFT)]
    small = nncf.quantize(
        model,
        nncf.Dataset(fed),
        subset_size=len(fed),
        preset=nncf.QuantizationPreset.PERFORMANCE,
        ignored_scope=nncf.IgnoredScope(names=left, types=["Add"]),
        fast_bias_correction=False,
    )
    ov.save_model(small, out, compress_to_fp16=False)


if __name__ == "__main__":
    main(*sys.argv[1:])
