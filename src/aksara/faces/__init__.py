"""Faces: which face of which family a font is, whether it may be used, and what its class is."""

from aksara.faces.evidence import Evidence
from aksara.faces.face import Face, Style, label_of
from aksara.faces.families import place_of, rivals, sort_into_families
from aksara.faces.features import Feature, feature_name, features
from aksara.faces.generic import Generic, generic_family
from aksara.faces.identification import identify
from aksara.faces.installed import installed_names
from aksara.faces.licence import WebLicence, refusal
from aksara.faces.metadata import read_metadata, web_metadata
from aksara.faces.metrics import FaceMetrics, LineMetrics, face_metrics
from aksara.faces.permission import Embedding, embedding

__all__ = [
    "Embedding",
    "Evidence",
    "Face",
    "FaceMetrics",
    "Feature",
    "Generic",
    "LineMetrics",
    "Style",
    "WebLicence",
    "embedding",
    "face_metrics",
    "feature_name",
    "features",
    "generic_family",
    "identify",
    "installed_names",
    "label_of",
    "place_of",
    "read_metadata",
    "refusal",
    "rivals",
    "sort_into_families",
    "web_metadata",
]
