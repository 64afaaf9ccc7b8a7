"""What the user gives: fonts and licence texts in files, folders and ZIPs. Bounded and untrusting."""

from aksara.sources.archive import MAX_MEMBERS
from aksara.sources.finding import MANIFEST_MARK, MANIFEST_NAME, Delivery, find_fonts, is_own_output, open_delivery
from aksara.sources.source import MAX_FILE_SIZE, SourceFile, read_file

__all__ = [
    "MANIFEST_MARK",
    "MANIFEST_NAME",
    "MAX_FILE_SIZE",
    "MAX_MEMBERS",
    "Delivery",
    "SourceFile",
    "find_fonts",
    "is_own_output",
    "open_delivery",
    "read_file",
]
