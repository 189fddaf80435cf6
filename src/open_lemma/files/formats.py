"""The formats of files, by their endings, with their media types (IANA), for whoever names a format and writes none."""

from __future__ import annotations

FIGURE_TYPES = {
    "svg": "image/svg+xml", "pdf": "application/pdf", "eps": "application/postscript", "png": "image/png", "tiff": "image/tiff",
    "csv": "text/csv", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "tex": "application/x-tex",
    "txt": "text/plain", "stl": "model/stl", "ply": "model/ply", "obj": "model/obj", "glb": "model/gltf-binary",
    "geojson": "application/geo+json",
}  # fmt: skip
DPIS = (150, 300, 600, 1200)
TABLE_TYPES = {
    "csv": "text/csv", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "json": "application/json",
    "parquet": "application/vnd.apache.parquet",
}  # fmt: skip
