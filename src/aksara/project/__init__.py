"""The project file `aksara.toml`: a build written down, to be run again."""

from aksara.project.drafting import Draft, draft_project
from aksara.project.reading import measured_beside, read_project
from aksara.project.schema import project_schema
from aksara.sources import PROJECT_NAME

__all__ = ["PROJECT_NAME", "Draft", "draft_project", "measured_beside", "project_schema", "read_project"]
