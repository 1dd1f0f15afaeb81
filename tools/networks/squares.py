"""MediaPipe's small networks as they ship. Usage: python -m tools.networks.squares NETWORK.tflite OUT.xml

Each has one picture, a square, and is written as OpenVINO reads it. That of persons has a transposed convolution of
MediaPipe's own, one with a bias: a plain one and a sum take its place. Needs the schema of such files, which the
package ai-edge-litert has.
"""

import struct
import sys
import tempfile
from pathlib import Path

import flatbuffers
import numpy as np
import openvino as ov
from ai_edge_litert import schema_py_generated as schema

OWN = b"Convolution2DTransposeBias"


def plainly(data: bytes) -> bytes:
    """The same network with every such operator as two that all readers know."""
    model = schema.ModelT.InitFromObj(schema.Model.GetRootAs(data, 0))
    [graph] = model.subgraphs
    transposed, added = _code(model, "TRANSPOSE_CONV"), _code(model, "ADD")
    operators = []
    for one in graph.operators:
        if (model.operatorCodes[one.opcodeIndex].customCode or b"") != OWN:
            operators.append(one)
            continue
        picture, weights, bias = map(int, one.inputs)
        [out] = map(int, one.outputs)
        padding, across, down = struct.unpack("<3i", bytes(one.customOptions)[:12])
        assert (padding, across, down) == (1, 2, 2), "the same size, twice as large"
        shape = _tensor(model, graph, b"shape", [4], schema.TensorType.INT32, np.int32(graph.tensors[out].shape))
        between = _tensor(model, graph, b"between", list(graph.tensors[out].shape), schema.TensorType.FLOAT32, None)
        options = schema.TransposeConvOptionsT()
        options.padding, options.strideW, options.strideH = schema.Padding.SAME, across, down
        operators.append(_operator(transposed, [shape, weights, picture], between, "TransposeConvOptions", options))
        operators.append(_operator(added, [between, bias], out, "AddOptions", schema.AddOptionsT()))
    graph.operators = operators
    builder = flatbuffers.Builder(len(data))
    builder.Finish(model.Pack(builder), b"TFL3")
    return bytes(builder.Output())


def _code(model, name):
    made = schema.OperatorCodeT()
    made.builtinCode = made.deprecatedBuiltinCode = getattr(schema.BuiltinOperator, name)
    made.version = 1
    model.operatorCodes.append(made)
    return len(model.operatorCodes) - 1


def _tensor(model, graph, name, shape, kind, values):
    held = schema.BufferT()
    held.data = None if values is None else np.frombuffer(values.tobytes(), np.uint8)
    model.buffers.append(held)
    made = schema.TensorT()
    made.name, made.shape, made.type, made.buffer = name, shape, kind, len(model.buffers) - 1
    graph.tensors.append(made)
    return len(graph.tensors) - 1


def _operator(code, inputs, out, kind, options):
    made = schema.OperatorT()
    made.opcodeIndex, made.inputs, made.outputs = code, inputs, [out]
    made.builtinOptionsType, made.builtinOptions = getattr(schema.BuiltinOptions, kind), options
    return made


def main(source, out):
    with tempfile.TemporaryDirectory() as folder:
        plain = Path(folder) / "plain.tflite"
        plain.write_bytes(plainly(Path(source).read_bytes()))
        model = ov.Core().read_model(plain)
        model.inputs[0].tensor.set_names({"square"})
        ov.save_model(model, out, compress_to_fp16=True)


if __name__ == "__main__":
    main(*sys.argv[1:])
