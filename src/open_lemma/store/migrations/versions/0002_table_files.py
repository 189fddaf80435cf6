"""Files that tables are read from."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGBLOB

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

_options: dict[str, Any] = {"mysql_engine": "InnoDB", "mysql_charset": "utf8mb4", "mysql_collate": "utf8mb4_bin"}


def upgrade() -> None:
    op.create_table(
        "table_file",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("folio_id", sa.Integer, sa.ForeignKey("folio.id"), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("data", LONGBLOB, nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("changed_at", sa.DateTime, nullable=False),
        sa.UniqueConstraint("folio_id", "name"),
        **_options,
    )


def downgrade() -> None:
    op.drop_table("table_file")
