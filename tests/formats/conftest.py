"""The API, for formats that it gives out."""

from tests.api.conftest import api

__all__ = ["api"]
