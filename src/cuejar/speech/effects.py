"""Effects on a voice: FFmpeg's filters. None changes the length of a speech by more than its echo."""

from __future__ import annotations

from collections.abc import Mapping

import av
import numpy as np
import numpy.typing as npt
from av.filter import Graph

SMALLER, BIGGER = 1.38, 0.74

Chain = tuple[tuple[str, str], ...]
CHAINS: Mapping[str, Chain] = {
    "echo": (("aecho", "0.8:0.6:140|280:0.4|0.2"),),
    "tunnel": (("aecho", "0.8:0.8:45|75|115:0.5|0.35|0.25"), ("lowpass", "f=2400")),
    "small": (("asetrate", f"{{rate}}*{SMALLER}"), ("aresample", "{rate}"), ("atempo", f"{1 / SMALLER:.4f}")),
    "giant": (
        ("asetrate", f"{{rate}}*{BIGGER}"),
        ("aresample", "{rate}"),
        ("atempo", f"{1 / BIGGER:.4f}"),
        ("lowpass", "f=3600"),
    ),
    "tannoy": (
        ("highpass", "f=500"),
        ("lowpass", "f=3000"),
        ("acrusher", "bits=9:mode=log:mix=0.5"),
        ("aecho", "0.7:0.5:70:0.3"),
    ),
    "robot": (("afftfilt", "real='hypot(re,im)*sin(0)':imag='hypot(re,im)*cos(0)':win_size=512:overlap=0.75"),),
    "backwards": (("areverse", ""),),
}
"""Each effect as a chain of filters."""


def shifted(samples: npt.NDArray[np.float32], rate: int, by: float) -> npt.NDArray[np.float32]:
    """Returns the samples ``by`` times as high (0.5 to 2), of the same length."""
    by = min(2.0, max(0.5, by))
    return _through(
        samples, rate, (("asetrate", f"{{rate}}*{by}"), ("aresample", "{rate}"), ("atempo", f"{1 / by:.4f}"))
    )


def changed(samples: npt.NDArray[np.float32], rate: int, effect: str) -> npt.NDArray[np.float32]:
    """Returns the samples with an effect, shape (n,) in and out; unchanged without one."""
    chain = CHAINS.get(effect)
    return samples if chain is None else _through(samples, rate, chain)


def _through(samples: npt.NDArray[np.float32], rate: int, chain: Chain) -> npt.NDArray[np.float32]:
    if len(samples) == 0:
        return samples
    graph = Graph()
    graph.threads = 1  # It may run beside a game, and starting threads takes longer than these sums.
    first = graph.add_abuffer(sample_rate=rate, format="flt", layout="mono")
    last = first
    for name, arguments in chain:
        node = graph.add(name, arguments.replace("{rate}", str(rate)) or None)
        last.link_to(node)
        last = node
    shape = graph.add("aformat", f"sample_fmts=flt:channel_layouts=mono:sample_rates={rate}")
    last.link_to(shape)
    sink = graph.add("abuffersink")
    shape.link_to(sink)
    graph.configure()
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples.reshape(1, -1)), format="flt", layout="mono")
    frame.sample_rate = rate
    out = []
    graph.push(frame)
    graph.push(None)
    while True:
        try:
            out.append(graph.pull().to_ndarray().reshape(-1))
        except (BlockingIOError, EOFError, av.FFmpegError):
            break
    return np.concatenate(out) if out else samples
