"""Drawings, figure data and bodies of records by their fingerprints: what comes out the same again is kept once. Runs by their ids."""

import hashlib
import json
import zlib
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGBLOB, LONGTEXT

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

_options: dict[str, Any] = {"mysql_engine": "InnoDB", "mysql_charset": "utf8mb4", "mysql_collate": "utf8mb4_bin"}
_BATCH = 20

_content = sa.table("content", sa.column("sha256", sa.String), sa.column("data", sa.LargeBinary))
_figure = sa.table(
    "figure", sa.column("id", sa.Integer), sa.column("svg", sa.LargeBinary), sa.column("data", sa.LargeBinary),
    sa.column("svg_sha256", sa.String), sa.column("data_sha256", sa.String),
)  # fmt: skip
_record = sa.table("record", sa.column("id", sa.Integer), sa.column("body", sa.Text), sa.column("body_sha256", sa.String))


def upgrade() -> None:
    op.create_table(
        "content",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("data", LONGBLOB, nullable=False),
        **_options,
    )
    op.add_column("figure", sa.Column("svg_sha256", sa.String(64), nullable=False, server_default=""))
    op.add_column("figure", sa.Column("data_sha256", sa.String(64), nullable=False, server_default=""))
    op.add_column("record", sa.Column("body_sha256", sa.String(64), nullable=False, server_default=""))
    op.add_column("record", sa.Column("run", sa.String(24), nullable=True))
    op.create_unique_constraint("record_by_run", "record", ["run"])
    op.add_column("table_file", sa.Column("byte_count", sa.BigInteger, nullable=False, server_default="0"))
    op.execute("UPDATE table_file SET byte_count = LENGTH(data)")
    connection = op.get_bind()
    for ids in _batches(connection, _figure):
        for row in connection.execute(sa.select(_figure.c.id, _figure.c.svg, _figure.c.data).where(_figure.c.id.in_(ids))).all():
            svg, data = _put(connection, row.svg), _put(connection, zlib.decompress(row.data))
            connection.execute(_figure.update().where(_figure.c.id == row.id).values(svg_sha256=svg, data_sha256=data))
    for ids in _batches(connection, _record):
        for number, text in connection.execute(sa.select(_record.c.id, _record.c.body).where(_record.c.id.in_(ids))).all():
            body = {**json.loads(text), "duration_s": 0}
            kept = _put(connection, json.dumps(body, ensure_ascii=False).encode("utf-8", "surrogatepass"))
            connection.execute(_record.update().where(_record.c.id == number).values(body_sha256=kept))
    op.drop_column("figure", "svg")
    op.drop_column("figure", "data")
    op.drop_column("record", "body")


def _batches(connection: Any, table: Any) -> list[list[int]]:
    ids = list(connection.scalars(sa.select(table.c.id).order_by(table.c.id)))
    return [ids[k : k + _BATCH] for k in range(0, len(ids), _BATCH)]


def _put(connection: Any, data: bytes) -> str:
    digest = hashlib.sha256(data).hexdigest()
    connection.execute(_content.insert().prefix_with("IGNORE").values(sha256=digest, data=zlib.compress(data, 6)))
    return digest


def downgrade() -> None:
    op.add_column("figure", sa.Column("svg", LONGBLOB, nullable=True))
    op.add_column("figure", sa.Column("data", LONGBLOB, nullable=True))
    op.add_column("record", sa.Column("body", LONGTEXT, nullable=True))
    connection = op.get_bind()
    for row in connection.execute(sa.select(_figure.c.id, _figure.c.svg_sha256, _figure.c.data_sha256)).all():
        svg, data = _get(connection, row.svg_sha256), zlib.compress(_get(connection, row.data_sha256))
        connection.execute(_figure.update().where(_figure.c.id == row.id).values(svg=svg, data=data))
    duration = sa.table("record", sa.column("id", sa.Integer), sa.column("duration_s", sa.Float))
    for number, kept in connection.execute(sa.select(_record.c.id, _record.c.body_sha256)).all():
        seconds = connection.scalar(sa.select(duration.c.duration_s).where(duration.c.id == number))
        body = {**json.loads(_get(connection, kept).decode("utf-8", "surrogatepass")), "duration_s": seconds}
        connection.execute(_record.update().where(_record.c.id == number).values(body=json.dumps(body, ensure_ascii=False)))
    for table, column, kind in (("figure", "svg", LONGBLOB), ("figure", "data", LONGBLOB), ("record", "body", LONGTEXT)):
        op.alter_column(table, column, existing_type=kind(), nullable=False)
    op.drop_constraint("record_by_run", "record", type_="unique")
    for table, column in (("figure", "svg_sha256"), ("figure", "data_sha256"), ("record", "body_sha256"), ("record", "run")):
        op.drop_column(table, column)
    op.drop_column("table_file", "byte_count")
    op.drop_table("content")


def _get(connection: Any, digest: str) -> bytes:
    return zlib.decompress(connection.scalar(sa.select(_content.c.data).where(_content.c.sha256 == digest)))
