"""The OpenAPI document with what live connections carry, which no operation takes or gives."""

from __future__ import annotations

from typing import Annotated, Any

from flask_openapi3 import OpenAPI
from pydantic import Field, TypeAdapter

from lantern.core.channel import Asked, Notice, Said
from lantern.web import shapes

REFERENCE = "#/components/schemas/{model}"
LIVE: dict[str, Any] = {
    "Said": Annotated[Said, Field(discriminator="type")],
    "Asked": Annotated[Asked, Field(discriminator="type")],
    "Notice": Notice,
    "RunNotice": shapes.RunNotice,
}
"""What is said over live connections, by the names of their schemas."""


class Documented(OpenAPI):
    """An application whose document holds the messages of live connections as well."""

    @property
    def api_doc(self) -> dict[str, Any]:
        """Return the document; the client's types are made from it."""
        document: dict[str, Any] = super().api_doc
        schemas = document["components"]["schemas"]
        for name, kind in LIVE.items():
            schema = TypeAdapter(kind).json_schema(ref_template=REFERENCE)
            schemas |= schema.pop("$defs", {})
            schemas.setdefault(name, schema)
        return document
