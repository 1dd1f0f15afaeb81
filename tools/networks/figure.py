"""The person's figure as it ships. Usage: python -m tools.networks.figure pose_landmark_heavy.tflite OUT.xml

MediaPipe's heavy pose network (Bazarevsky et al. 2020) without the outputs that nothing reads, as OpenVINO reads it:
half the time for the same outputs but for rounding. In 8 bits it no longer tells figures (a mean IoU of .75 with its
own, even with the convolutions of single channels left out), and is hardly quicker.
"""

import sys

import openvino as ov

FIGURE, PRESENCE = "Identity_2", "Identity_1"


def main(source, out):
    whole = ov.Core().read_model(source)
    whole.inputs[0].tensor.set_names({"square"})
    ends = [whole.output(name).get_node().input_value(0) for name in (FIGURE, PRESENCE)]
    ov.save_model(ov.Model(ends, whole.get_parameters()), out, compress_to_fp16=True)


if __name__ == "__main__":
    main(*sys.argv[1:])
