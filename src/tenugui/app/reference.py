"""The API for those who script it: its schema, and a page to read it by, made here and from nothing that is not
here.
"""

from __future__ import annotations

from html import escape
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, JSONResponse

router = APIRouter(prefix="/api", include_in_schema=False)
STYLE = """
body { margin: 2rem auto; max-width: 62rem; padding: 0 1rem; background: #f3eee2; color: #1d2b45;
  font: 15px/1.5 Figtree, sans-serif }
h1, h2 { font-weight: 400; color: #20375f } h2 { margin-top: 2.5rem; border-bottom: 1px solid #cfc6b0 }
h3 { margin: 1.6rem 0 .2rem; font-size: 1rem } code { font-size: .93em }
.way { display: inline-block; min-width: 4.2rem; color: #a84e1d }
table { border-collapse: collapse; width: 100% }
td, th { padding: .15rem .8rem .15rem 0; text-align: left; vertical-align: top;
  border-bottom: 1px solid #e3dac6 }
a { color: #20375f } p { margin: .2rem 0 }
"""


@router.get("/schema")
def schema(request: Request) -> JSONResponse:
    """The schema by which every door is described (OpenAPI)."""
    return JSONResponse(request.app.openapi())


@router.get("/reference")
def reference(request: Request) -> HTMLResponse:
    """Every door and every document on one page."""
    return HTMLResponse(page(request.app.openapi()))


def page(schema: dict[str, Any]) -> str:
    """A schema as a page."""
    by_tag: dict[str, list[str]] = {}
    for path, doors in schema["paths"].items():
        for way, door in doors.items():
            by_tag.setdefault(door.get("tags", ["others"])[0], []).append(_door(path, way, door))
    documents = sorted(schema["components"]["schemas"].items())
    parts = [
        f"<h1>{escape(schema['info']['title'])}: its doors</h1>",
        "<p>Everything that the page does, it does by these. Units are in the names: "
        "mm, s, g, N, degrees elsewhere. What is refused comes as problem details "
        "(<code>code</code>, <code>title</code>, <code>detail</code>, <code>where</code>). "
        "What changes something wants JSON, and the head of the plan that was seen. "
        "<a href='/api/schema'>The schema itself</a> (OpenAPI).</p>",
        *(f"<h2 id='{escape(tag)}'>{escape(tag)}</h2>{''.join(doors)}" for tag, doors in sorted(by_tag.items())),
        "<h2 id='documents'>Documents</h2>",
        *(_document(name, document) for name, document in documents),
    ]
    return (
        "<!doctype html><html lang='en'><meta charset='utf-8'><title>Tenugui: "
        f"its doors</title><style>{STYLE}</style>{''.join(parts)}</html>"
    )


def _door(path: str, way: str, door: dict[str, Any]) -> str:
    asked = [
        f"<tr><td><code>{escape(p['name'])}</code></td><td>{escape(p['in'])}</td><td>{_kind(p['schema'])}</td></tr>"
        for p in door.get("parameters", [])
    ]
    body = door.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema")
    answer = door.get("responses", {}).get("200", {}).get("content", {}).get("application/json", {}).get("schema")
    lines = [f"<h3><span class='way'>{way.upper()}</span><code>{escape(path)}</code></h3>"]
    lines.append(f"<p>{escape(door.get('description', door.get('summary', '')))}</p>")
    lines += [f"<table>{''.join(asked)}</table>"] if asked else []
    lines += [f"<p>Takes {_kind(body)}.</p>"] if body else []
    lines += [f"<p>Gives {_kind(answer)}.</p>"] if answer else []
    return "".join(lines)


def _document(name: str, document: dict[str, Any]) -> str:
    wanted = document.get("required", [])
    rows = [
        f"<tr><td><code>{escape(field)}</code>{'' if field in wanted else ' (optional)'}</td><td>{_kind(schema)}</td>"
        f"<td>{escape(schema.get('description', ''))}</td></tr>"
        for field, schema in document.get("properties", {}).items()
    ]
    said = f"<p>{escape(document.get('description', ''))}</p>"
    return f"<h3 id='{escape(name)}'>{escape(name)}</h3>{said}<table>{''.join(rows)}</table>"


def _kind(schema: dict[str, Any]) -> str:
    """A type in words, other documents as links."""
    if "$ref" in schema:
        name = schema["$ref"].rsplit("/", 1)[1]
        return f"<a href='#{escape(name)}'>{escape(name)}</a>"
    for several in ("anyOf", "oneOf", "allOf"):
        if several in schema:
            return " or ".join(_kind(one) for one in schema[several])
    if "enum" in schema or "const" in schema:
        return " | ".join(f"<code>{escape(str(v))}</code>" for v in schema.get("enum", [schema.get("const")]))
    if schema.get("type") == "array":
        inner = schema.get("items") or {"anyOf": schema.get("prefixItems", [{}])}
        return f"list of {_kind(inner)}"
    bounds = [
        f"{word} {schema[key]}"
        for key, word in (
            ("minimum", "from"),
            ("exclusiveMinimum", "above"),
            ("maximum", "to"),
            ("maxLength", "letters to"),
        )
        if key in schema
    ]
    return escape(" ".join([schema.get("type", "anything"), *bounds]))
