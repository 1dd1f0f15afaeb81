"""The boxes' network as it ships. Usage: python -m tools.networks.boxes boxes.onnx OUT.xml

NanoDet as ``tfjs_to_onnx.py`` writes it, made plain: its tensors are turned to and fro around every sum, which takes a
third of its time. Every number stays the same. In 8 bits it would take a third of what is left, but scores move by .02
where they are sure and by .09 at most, and that is a person or a dog too few: ferry's subject .961 to .954, dunes'
.961 to .956.
"""

import sys

import openvino as ov

from lenskeep.core.detect.boxes import SIDE
from tools.networks.plainer import read, with_pads, without_turns


def main(source, out):
    model = read(source, [1, 3, SIDE, SIDE])
    without_turns(model)
    with_pads(model)
    plain = ov.Model([result.input_value(0) for result in model.get_results()], model.get_parameters())
    ov.save_model(plain, out, compress_to_fp16=True)


if __name__ == "__main__":
    main(*sys.argv[1:])
