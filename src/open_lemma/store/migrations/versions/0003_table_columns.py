"""Tables as typed columns, with the recipe by which a file is read, and older versions of files."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGBLOB, LONGTEXT

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

_options: dict[str, Any] = {"mysql_engine": "InnoDB", "mysql_charset": "utf8mb4", "mysql_collate": "utf8mb4_bin"}


def upgrade() -> None:
    # A file that was brought in before has no recipe yet: it is read when it is first asked for.
    op.add_column("table_file", sa.Column("recipe", LONGTEXT, nullable=False))
    op.add_column("table_file", sa.Column("row_count", sa.Integer, nullable=False, server_default="0"))
    op.add_column("table_file", sa.Column("number", sa.Integer, nullable=False, server_default="1"))
    op.create_table(
        "table_column",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("file_id", sa.Integer, sa.ForeignKey("table_file.id", ondelete="CASCADE"), nullable=False),
        sa.Column("place", sa.Integer, nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("data", LONGBLOB, nullable=False),
        sa.Column("bad", LONGTEXT, nullable=False),
        sa.Column("bad_count", sa.Integer, nullable=False),
        sa.Column("summary", LONGTEXT, nullable=False),
        sa.UniqueConstraint("file_id", "place"),
        **_options,
    )
    op.create_table(
        "table_version",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("file_id", sa.Integer, sa.ForeignKey("table_file.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("data", LONGBLOB, nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("recipe", LONGTEXT, nullable=False),
        sa.Column("row_count", sa.Integer, nullable=False),
        sa.Column("created_at", sa.DateTime, nullable=False),
        sa.UniqueConstraint("file_id", "number"),
        **_options,
    )


def downgrade() -> None:
    op.drop_table("table_version")
    op.drop_table("table_column")
    for column in ("recipe", "row_count", "number"):
        op.drop_column("table_file", column)
