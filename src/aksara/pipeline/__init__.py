"""A whole build: the request, the plan, the run, and the files, written all at once."""

from aksara.pipeline.characters import CharacterRequest
from aksara.pipeline.planning.plan import BuildPlan, make_plan
from aksara.pipeline.planning.planned import FacePlan, FamilyPlan
from aksara.pipeline.request import BuildRequest, FaceOverride, FamilyRequest
from aksara.pipeline.runner import Build, Progress, build, run
from aksara.pipeline.trials.budget import Budget, Saving
from aksara.pipeline.writing.output import Written, write_output
from aksara.pipeline.writing.targets import OutputFile

__all__ = [
    "Budget",
    "Build",
    "BuildPlan",
    "BuildRequest",
    "CharacterRequest",
    "FaceOverride",
    "FacePlan",
    "FamilyPlan",
    "FamilyRequest",
    "OutputFile",
    "Progress",
    "Saving",
    "Written",
    "build",
    "make_plan",
    "run",
    "write_output",
]
