"""Trying families before choosing one: a page in each of them, with size, missing characters and licence."""

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
