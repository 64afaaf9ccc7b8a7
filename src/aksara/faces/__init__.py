"""Faces: which face of which family a font is, whether it may be used, and what its class is."""

from aksara.faces.face import Face, Style, label_of
from aksara.faces.generic import generic_family
from aksara.faces.identification import identify
from aksara.faces.permission import Embedding, embedding

__all__ = ["Embedding", "Face", "Style", "embedding", "generic_family", "identify", "label_of"]
