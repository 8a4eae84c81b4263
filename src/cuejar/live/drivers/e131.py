"""Packets of streaming ACN (ANSI E1.31-2018): a universe's values, and the list of universes."""

from __future__ import annotations

import struct
from collections.abc import Sequence
from ipaddress import IPv4Address

PORT = 5568
ACN_ID = b"ASC-E1.17\0\0\0"
ROOT_DATA, ROOT_EXTENDED, FRAMING_DATA, FRAMING_DISCOVERY = 4, 8, 2, 2
OVER = 0x40
"""A packet's option: the stream ends with it (6.2.6)."""
SEQUENCE_AT, VALUES_AT = 111, 126
"""The positions of a data packet's number and values (table 4-1); the rest is constant for a universe."""
GROUPS = int(IPv4Address("239.255.0.0"))


def _layer(content: bytes) -> bytes:
    """Returns a layer with its flags and its length, which includes both."""
    return struct.pack(">H", 0x7000 | len(content) + 2) + content


def _root(vector: int, cid: bytes, framing: bytes) -> bytes:
    return struct.pack(">HH", 0x0010, 0) + ACN_ID + _layer(struct.pack(">I", vector) + cid + framing)


def _name(source: str) -> bytes:
    return source.encode()[:63].ljust(64, b"\0")


def data_packet(
    cid: bytes, source: str, priority: int, universe: int, sequence: int, values: bytes, over: bool = False
) -> bytearray:
    """Returns a universe's values (4 to 7).

    Args:
        cid: 16 bytes that identify the sender.
        priority: 0 to 200; lamps follow the sender with the highest.
        over: the stream ends with it.
    """
    dmp = _layer(struct.pack(">BBHHHB", 2, 0xA1, 0, 1, len(values) + 1, 0) + values)
    options = OVER if over else 0
    head = struct.pack(">BHBBH", priority, 0, sequence, options, universe)
    return bytearray(_root(ROOT_DATA, cid, _layer(struct.pack(">I", FRAMING_DATA) + _name(source) + head + dmp)))


def discovery_packet(cid: bytes, source: str, universes: Sequence[int]) -> bytes:
    """Returns the list of the sender's universes (8); it changes no lamp."""
    listed = _layer(struct.pack(">IBB", 1, 0, 0) + b"".join(struct.pack(">H", one) for one in sorted(universes)[:512]))
    return _root(ROOT_EXTENDED, cid, _layer(struct.pack(">I", FRAMING_DISCOVERY) + _name(source) + bytes(4) + listed))


def group(universe: int) -> str:
    """Returns the multicast address of a universe (9.3.1)."""
    return str(IPv4Address(GROUPS + universe))
