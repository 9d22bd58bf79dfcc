"""Learnt networks, run by onnxruntime on a few of the machine's cores."""

from typing import Any

from airtrim.processes import threads


def session(model: Any) -> Any:
    """What runs a graph, given as an ``onnx.ModelProto``; it says nothing but errors."""
    import onnxruntime

    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = min(4, threads())
    options.inter_op_num_threads = 1
    options.log_severity_level = 3
    return onnxruntime.InferenceSession(model.SerializeToString(), options)
