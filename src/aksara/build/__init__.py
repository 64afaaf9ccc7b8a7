"""A whole build: what is asked for, the plan, the work, and the files, written all at once."""

from aksara.build.budget import Budget, WayOut
from aksara.build.output import OutputFile, Written, write_output
from aksara.build.plan import FacePlan, FamilyPlan, Plan, make_plan
from aksara.build.request import BuildRequest, FamilyRequest, Overrule
from aksara.build.runner import Build, Progress, run

__all__ = [
    "Budget",
    "Build",
    "BuildRequest",
    "FacePlan",
    "FamilyPlan",
    "FamilyRequest",
    "OutputFile",
    "Overrule",
    "Plan",
    "Progress",
    "WayOut",
    "Written",
    "make_plan",
    "run",
    "write_output",
]
