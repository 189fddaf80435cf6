"""Files of tables and their columns in pieces: no statement is as long as a file."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGBLOB, MEDIUMBLOB

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

_options: dict[str, Any] = {"mysql_engine": "InnoDB", "mysql_charset": "utf8mb4", "mysql_collate": "utf8mb4_bin"}
_PIECE = 1 << 20
_HOLDERS = ("table_file", "table_version", "table_column")


def upgrade() -> None:
    op.create_table("blob", sa.Column("id", sa.Integer, primary_key=True), **_options)
    op.create_table(
        "piece",
        sa.Column("blob_id", sa.Integer, sa.ForeignKey("blob.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("data", MEDIUMBLOB, nullable=False),
        **_options,
    )
    connection = op.get_bind()
    for holder in _HOLDERS:
        op.add_column(holder, sa.Column("blob_id", sa.Integer, nullable=True))
        sizes = connection.execute(sa.text(f"SELECT id, LENGTH(data) FROM {holder} ORDER BY id")).all()
        for number, size in sizes:
            connection.execute(sa.text("INSERT INTO `blob` VALUES ()"))
            blob = connection.scalar(sa.text("SELECT LAST_INSERT_ID()"))
            for k, start in enumerate(range(0, size, _PIECE)):
                piece = f"SELECT :blob, :k, SUBSTRING(data, :start, {_PIECE}) FROM {holder} WHERE id = :id"
                given = {"blob": blob, "k": k, "start": start + 1, "id": number}
                connection.execute(sa.text(f"INSERT INTO piece (blob_id, number, data) {piece}"), given)
            connection.execute(sa.text(f"UPDATE {holder} SET blob_id = :blob WHERE id = :id"), {"blob": blob, "id": number})
        op.alter_column(holder, "blob_id", existing_type=sa.Integer(), nullable=False)
        op.create_foreign_key(f"blob_of_{holder}", holder, "blob", ["blob_id"], ["id"])
        op.drop_column(holder, "data")


def downgrade() -> None:
    connection = op.get_bind()
    for holder in _HOLDERS:
        op.add_column(holder, sa.Column("data", LONGBLOB, nullable=True))
        connection.execute(sa.text(f"UPDATE {holder} SET data = ''"))
        pieces = f"SELECT h.id, p.number FROM {holder} h JOIN piece p ON p.blob_id = h.blob_id ORDER BY h.id, p.number"
        for number, k in connection.execute(sa.text(pieces)).all():
            joined = f"UPDATE {holder} h JOIN piece p ON p.blob_id = h.blob_id SET h.data = CONCAT(h.data, p.data)"
            connection.execute(sa.text(f"{joined} WHERE h.id = :id AND p.number = :k"), {"id": number, "k": k})
        op.alter_column(holder, "data", existing_type=LONGBLOB(), nullable=False)
        op.drop_constraint(f"blob_of_{holder}", holder, type_="foreignkey")
        op.drop_column(holder, "blob_id")
    op.drop_table("piece")
    op.drop_table("blob")
