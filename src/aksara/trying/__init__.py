"""Trying families before one is chosen: a page of the user's in each of them, and what each costs, lacks and allows."""

from aksara.trying.candidates import Candidate, CandidateFonts, find_candidates, make_candidate
from aksara.trying.present import PresentFamily, TriedPage, tried_page, tried_text
from aksara.trying.rendering import Trial, trial_page

__all__ = [
    "Candidate",
    "CandidateFonts",
    "PresentFamily",
    "Trial",
    "TriedPage",
    "find_candidates",
    "make_candidate",
    "trial_page",
    "tried_page",
    "tried_text",
]
