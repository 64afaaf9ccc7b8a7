"""What the user gives: fonts and licence texts in files, folders and ZIPs. Bounded and untrusting."""

from aksara.sources.archive import ARCHIVE_MARK, MAX_MEMBERS, is_own_archive
from aksara.sources.finding import MANIFEST_MARK, MANIFEST_NAME, Delivery, find_fonts, is_own_output, open_delivery
from aksara.sources.pages import common_folder, expand, find_pages, read_pages, read_text
from aksara.sources.source import MAX_FILE_SIZE, SourceFile, read_file, shown

__all__ = [
    "ARCHIVE_MARK",
    "MANIFEST_MARK",
    "MANIFEST_NAME",
    "MAX_FILE_SIZE",
    "MAX_MEMBERS",
    "Delivery",
    "SourceFile",
    "common_folder",
    "expand",
    "find_fonts",
    "find_pages",
    "is_own_archive",
    "is_own_output",
    "open_delivery",
    "read_file",
    "read_pages",
    "read_text",
    "shown",
]
