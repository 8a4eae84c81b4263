"""Answers that are texts of a certain type, so that the OpenAPI says which."""

from __future__ import annotations

from fastapi.responses import PlainTextResponse


class CsvText(PlainTextResponse):
    media_type = "text/csv"


class MarkdownText(PlainTextResponse):
    media_type = "text/markdown"
