"""Faces: which face of which family a font is, whether it may be used, and what its class is."""

from aksara.faces.embedding import Embedding, embedding
from aksara.faces.face import Face, Style, label_of
from aksara.faces.generic import generic_family
from aksara.faces.identify import identify

__all__ = ["Embedding", "Face", "Style", "embedding", "generic_family", "identify", "label_of"]
