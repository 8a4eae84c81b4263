"""The viewers of Tinwhistle Halt."""

from __future__ import annotations

from typing import Any

PEOPLE: list[dict[str, Any]] = [
    {"id": "v-bramble", "name": "bramble_jo", "roles": ["follower", "member"], "tier": 1},
    {"id": "v-kettle", "name": "kettlewright", "roles": ["follower"], "tier": 1},
    {"id": "v-gauge", "name": "nine_gauge", "roles": ["follower", "member"], "tier": 2},
    {"id": "v-salt", "name": "saltmarsh_sue", "roles": ["follower", "vip"], "tier": 1},
    {"id": "v-ferrous", "name": "ferrous_wheel", "roles": ["follower", "member"], "tier": 3},
    {"id": "v-puddle", "name": "puddlejump", "roles": ["follower"], "tier": 1},
    {"id": "v-owl", "name": "owlpost", "roles": ["follower", "moderator"], "tier": 1},
    {"id": "v-hopper", "name": "hopper_kit", "roles": [], "tier": 1},
]
POINTS = 20_000
