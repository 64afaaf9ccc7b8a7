"""'hmtx': horizontal metrics (OpenType 1.9.1)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from aksara.tables.base import Font
from aksara.tables.hhea import Hhea
from aksara.tables.maxp import Maxp
from aksara.tables.metrics import Metrics


@dataclass(slots=True, frozen=True, eq=False)
class Hmtx(Metrics):
    """Advance width and left side bearing of every glyph, in font units."""

    TAG: ClassVar[str] = "hmtx"

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self:
        return cls.read(data, font.table(Hhea).number_of_h_metrics, font.table(Maxp).num_glyphs)
