"""Folios that came with the application say what they show, so that the shelf can group them and put them away."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

# The folios of the scenario as they were put on the shelf before: known by their titles.
_KNOWN = {
    "One function": ("Alternate depths", "Quiet water", "Waveforms for the wave paddle"),
    "Measurements and fits": (
        "Rating the weir", "Tides from the gauge", "Tides at the sill", "Emptying the pond", "The moored float", "A day at the weir",
    ),
    "Surfaces": ("A gallery of surfaces", "The pond bed"),
    "Loops and figures for print": ("Steps in the fish ladder", "Figures from the field book"),
}  # fmt: skip


def upgrade() -> None:
    op.add_column("folio", sa.Column("example", sa.String(60), nullable=False, server_default=""))
    folio = sa.table("folio", sa.column("title", sa.String), sa.column("example", sa.String))
    for group, titles in _KNOWN.items():
        op.execute(folio.update().where(folio.c.title.in_(titles)).values(example=group))


def downgrade() -> None:
    op.drop_column("folio", "example")
