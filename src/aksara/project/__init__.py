"""The project file `aksara.toml`: a build written down, to be run again."""

from aksara.project.accepted import append_acceptances
from aksara.project.addresses import AddressList, list_addresses
from aksara.project.drafting import Draft, draft_project
from aksara.project.keys import PARAMETER_WORDS
from aksara.project.measured import keep_measured, measured_beside
from aksara.project.reading import names_fonts, read_acceptances, read_project
from aksara.project.schema import project_schema
from aksara.sources import PROJECT_NAME

__all__ = [
    "PARAMETER_WORDS",
    "PROJECT_NAME",
    "AddressList",
    "Draft",
    "append_acceptances",
    "draft_project",
    "keep_measured",
    "list_addresses",
    "measured_beside",
    "names_fonts",
    "project_schema",
    "read_acceptances",
    "read_project",
]
