"""Families of collections that no page uses, though pages use others of the same file.

A collection for East Asian text has the families of five regions, each with all its characters; a site uses one.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence

from aksara.faces import Face
from aksara.notices import Notice
from aksara.phrases import count_of, listed
from aksara.sources import collection_of

_NAMED = 3


def unused_members(faces: Sequence[Face], used: Collection[str]) -> dict[str, list[str]]:
    """The unused families of collections, by collection, if pages use another family of the same collection."""
    collections: dict[str, set[str]] = defaultdict(set)
    for face in faces:
        collections[face.family].add(collection_of(face.path))
    of_used = {collection for name in used for collection in collections.get(name, ())} - {""}
    unused: dict[str, list[str]] = defaultdict(list)
    for name, own in collections.items():
        if name not in used and own <= of_used:
            unused[min(own)].append(name)
    return dict(unused)


def left_out_notices(unused: Mapping[str, Sequence[str]]) -> list[Notice]:
    """What to say of them."""
    return [
        Notice(
            collection,
            f"no page uses {count_of(len(names), 'family', 'families')} of it, left out: {listed(names, _NAMED)}",
        )
        for collection, names in unused.items()
    ]
