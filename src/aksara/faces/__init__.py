"""Faces: identifying a font's family and style, its permissions, and its generic family."""

from aksara.faces.colour import FontPalette, colour_words, font_palettes
from aksara.faces.face import Evidence, Face
from aksara.faces.families import Descriptors, conflicting_faces, descriptors_of, group_by_family, sort_into_families
from aksara.faces.generic import Generic, generic_family
from aksara.faces.identification import identify
from aksara.faces.licence import WebLicence, refusal
from aksara.faces.local_names import names_for_local
from aksara.faces.metadata import read_metadata, web_metadata
from aksara.faces.metrics import FaceMetrics, LineMetrics, face_metrics, widths_of
from aksara.faces.opentype_features import FontFeature, feature_name, font_features
from aksara.faces.permission import Embedding, Permission, embedding
from aksara.faces.style import STYLES, Style, label_of
from aksara.faces.variation import FontAxis, FontInstance, FontVariation, font_variation

__all__ = [
    "STYLES",
    "Descriptors",
    "Embedding",
    "Evidence",
    "Face",
    "FaceMetrics",
    "FontAxis",
    "FontFeature",
    "FontInstance",
    "FontPalette",
    "FontVariation",
    "Generic",
    "LineMetrics",
    "Permission",
    "Style",
    "WebLicence",
    "colour_words",
    "conflicting_faces",
    "descriptors_of",
    "embedding",
    "face_metrics",
    "feature_name",
    "font_features",
    "font_palettes",
    "font_variation",
    "generic_family",
    "group_by_family",
    "identify",
    "label_of",
    "names_for_local",
    "read_metadata",
    "refusal",
    "sort_into_families",
    "web_metadata",
    "widths_of",
]
