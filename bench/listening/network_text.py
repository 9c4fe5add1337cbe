"""Learnt networks as C++: arrays of a few digits."""

import numpy as np
import torch

_short = np.vectorize(lambda v: float(f"{v:.3g}"), otypes=[np.float32])


def rounded(model, *arrays):
    """Three digits, as they are written: finer than what the features are worth."""
    model.load_state_dict({name: torch.from_numpy(_short(value.numpy())) for name, value in model.state_dict().items()})
    return tuple(_short(array) for array in arrays)


def _array(name, values):
    """A C array of one or two dimensions."""
    rows = values if values.ndim == 2 else values[None]
    size = "".join(f"[{n}]" for n in values.shape)
    lines = [", ".join(f"{v:.3g}" for v in row) for row in rows]
    body = ",\n".join(f"  {{{line}}}" for line in lines) if values.ndim == 2 else f"  {lines[0]}"
    return f"inline constexpr float {name}{size} = {{\n{body}\n}};\n"


def of_both_ways(p, layer, number=0):
    """The arrays of a layer of gated recurrent units: onwards and back."""
    tail = str(number + 1) if number is not None else ""
    out = []
    for name, end in (("Onwards", f"l{number or 0}"), ("Back", f"l{number or 0}_reverse")):
        out += [(name + tail + "In", p[f"{layer}.weight_ih_{end}"].T), (name + tail + "InBias", p[f"{layer}.bias_ih_{end}"]),
                (name + tail + "Own", p[f"{layer}.weight_hh_{end}"].T), (name + tail + "OwnBias", p[f"{layer}.bias_hh_{end}"])]
    return out


def write(path, script, what, prefix, constants, arrays):
    with open(path, "w") as file:
        file.write(f"// Written by bench/listening/{script}: {what}.\n#pragma once\n\nnamespace tuvvo {{\n\n// clang-format off\n")
        file.write("inline constexpr int " + ", ".join(f"{prefix}{name} = {value}" for name, value in constants.items()) + ";\n")
        for name, values in arrays:
            file.write(_array(prefix + name, values))
        file.write("// clang-format on\n\n} // namespace tuvvo\n")
