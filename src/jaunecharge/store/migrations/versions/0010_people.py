"""People with names, roles and passphrases of their own; sessions that can be listed; an audit log."""

import uuid

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)
NOW = sa.text("now()")


def upgrade() -> None:
    op.create_table(
        "people",
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("digest", sa.Text(), nullable=False),
        sa.Column("created_at", MOMENT, server_default=NOW, nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("uq_people_name", "people", [sa.text("lower(name)")], unique=True)
    # The one passphrase of before becomes that of a person called “bench”, who may change everything as before.
    first = "INSERT INTO people (id, name, role, digest) SELECT :id, 'bench', 'change', digest FROM secrets"
    op.execute(sa.text(first).bindparams(id=uuid.uuid4()))
    op.drop_table("secrets")
    op.drop_table("sign_ins")
    op.create_table(
        "sign_ins",
        sa.Column("digest", sa.Text(), nullable=False),
        sa.Column("id", sa.UUID(), nullable=False),
        sa.Column("person_id", sa.UUID(), sa.ForeignKey("people.id", ondelete="CASCADE"), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("until", MOMENT, nullable=False),
        sa.Column("address", sa.Text(), nullable=False),
        sa.Column("agent", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("digest"),
        sa.UniqueConstraint("id"),
    )
    op.create_table(
        "audit",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("who", sa.Text(), nullable=False),
        sa.Column("address", sa.Text(), nullable=False),
        sa.Column("what", sa.Text(), nullable=False),
        sa.Column("about", sa.Text(), nullable=False),
        sa.Column("route", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )


def downgrade() -> None:
    op.drop_table("audit")
    op.drop_table("sign_ins")
    op.create_table(
        "sign_ins",
        sa.Column("digest", sa.Text(), nullable=False),
        sa.Column("until", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("digest"),
    )
    op.create_table(
        "secrets",
        sa.Column("purpose", sa.Text(), nullable=False),
        sa.Column("digest", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("purpose"),
    )
    op.execute(
        "INSERT INTO secrets SELECT 'passphrase', digest FROM people WHERE role = 'change' ORDER BY created_at LIMIT 1"
    )
    op.drop_table("people")
