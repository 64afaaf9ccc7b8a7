"""Tables that are graphs of offsets: following the offsets when reading, laying the parts out again when writing.

OpenType Layout, 'MATH', 'BASE', item variation stores and colour tables are such: a table holds offsets, counted from
its own start, to others (OpenType 1.9.1, "Offsets").
"""

from aksara.offsets.blocks import Block
from aksara.offsets.reading import OffsetReader
from aksara.offsets.serializing import OffsetOverflow, Sharing, serialize, total_size

__all__ = ["Block", "OffsetOverflow", "OffsetReader", "Sharing", "serialize", "total_size"]
