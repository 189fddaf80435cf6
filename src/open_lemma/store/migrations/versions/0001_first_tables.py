"""Owners, folios, revisions, records, figures."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGBLOB, LONGTEXT, MEDIUMTEXT

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

_options: dict[str, Any] = {"mysql_engine": "InnoDB", "mysql_charset": "utf8mb4", "mysql_collate": "utf8mb4_bin"}


def upgrade() -> None:
    op.create_table(
        "owner",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(120), nullable=False, unique=True),
        **_options,
    )
    op.create_table(
        "folio",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("owner_id", sa.Integer, sa.ForeignKey("owner.id"), nullable=False),
        sa.Column("title", sa.String(200), nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("created_at", sa.DateTime, nullable=False),
        sa.Column("changed_at", sa.DateTime, nullable=False),
        sa.Column("deleted_at", sa.DateTime, nullable=True),
        sa.Index("folio_by_owner", "owner_id", "deleted_at"),
        **_options,
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("folio_id", sa.Integer, sa.ForeignKey("folio.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("script", MEDIUMTEXT, nullable=False),
        sa.Column("script_sha256", sa.String(64), nullable=False),
        sa.Column("created_at", sa.DateTime, nullable=False),
        sa.UniqueConstraint("folio_id", "number"),
        **_options,
    )
    op.create_table(
        "record",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("folio_id", sa.Integer, sa.ForeignKey("folio.id"), nullable=False),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revision.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("same_as", sa.Integer, nullable=True),
        sa.Column("body", LONGTEXT, nullable=False),
        sa.Column("result_sha256", sa.String(64), nullable=False),
        sa.Column("duration_s", sa.Float, nullable=False),
        sa.Column("created_at", sa.DateTime, nullable=False),
        sa.UniqueConstraint("folio_id", "number"),
        sa.Index("record_by_result", "folio_id", "result_sha256"),
        **_options,
    )
    op.create_table(
        "figure",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("record_id", sa.Integer, sa.ForeignKey("record.id"), nullable=False),
        sa.Column("place", sa.Integer, nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("svg", LONGBLOB, nullable=False),
        sa.Column("data", LONGBLOB, nullable=False),
        sa.UniqueConstraint("record_id", "place"),
        **_options,
    )
    op.create_table(
        "mark",
        sa.Column("name", sa.String(80), primary_key=True),
        sa.Column("created_at", sa.DateTime, nullable=False),
        **_options,
    )


def downgrade() -> None:
    for table in ("mark", "figure", "record", "revision", "folio", "owner"):
        op.drop_table(table)
