"""What converted networks hold in roundabout ways, in plainer words: nothing else lets them run as fast as may be."""

import numpy as np
import openvino as ov
from openvino import opset13 as ops
from openvino.passes import ConstantFolding, Manager


def read(path, shape):
    """The network for inputs of this shape, what is constant worked out."""
    model = ov.Core().read_model(path)
    model.reshape(shape)
    folding = Manager()
    folding.register_pass(ConstantFolding())
    folding.run_passes(model)
    return model


def kind(output):
    return output.get_node().get_type_name()


def numbers(output):
    """A constant's; None where it is none."""
    return output.get_node().get_data() if kind(output) == "Constant" else None


def constant_last(node):
    """A node's two inputs: what is worked out, and a constant."""
    return sorted((node.input_value(k) for k in (0, 1)), key=lambda v: numbers(v) is not None)


def put_for(node, new):
    new.set_friendly_name(node.get_friendly_name())
    node.output(0).replace(new.output(0))


def with_pads(model):
    """Paddings with nothing before a convolution become its own."""
    for node in model.get_ordered_ops():
        name = node.get_type_name()
        if not name.endswith("Convolution") or kind(node.input_value(0)) != "Pad":
            continue
        pad, given = node.input_value(0).get_node(), node.get_attributes()
        before, after = (numbers(pad.input_value(k)).tolist()[2:] for k in (1, 2))
        assert not numbers(pad.input_value(3)) and not any([*given["pads_begin"], *given["pads_end"]])
        how = ops.convolution if name == "Convolution" else ops.group_convolution
        fed = pad.input_value(0), node.input_value(1)
        put_for(node, how(*fed, list(given["strides"]), before, after, list(given["dilations"])))


def without_turns(model):
    """Transposes that undo each other go, and those around a sum with a number for each channel."""
    for node in model.get_ordered_ops():
        if node.get_type_name() != "Transpose":
            continue
        x, turn = node.input_value(0), numbers(node.input_value(1))
        if kind(x) == "Transpose" and _undone(numbers(x.get_node().input_value(1)), turn):
            node.output(0).replace(x.get_node().input_value(0))
        elif kind(x) == "Add":
            turned, bias = constant_last(x.get_node())
            if numbers(bias) is not None and kind(turned) == "Transpose":
                inner = turned.get_node()
                if _undone(numbers(inner.input_value(1)), turn):
                    plane = np.ascontiguousarray(numbers(bias).reshape(1, -1, 1, 1))
                    node.output(0).replace(ops.add(inner.input_value(0), plane).output(0))


def _undone(first, second):
    return len(first) == len(second) and [first[k] for k in second] == list(range(len(first)))
