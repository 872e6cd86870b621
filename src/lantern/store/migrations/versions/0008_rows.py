"""Rows of tables apart from documents, in chunks that versions share."""

from __future__ import annotations

import hashlib
import json

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"

CHUNK = 128


def upgrade() -> None:
    op.create_table(
        "row_chunks",
        sa.Column("digest", sa.String(64), primary_key=True),
        sa.Column("rows", sa.JSON(), nullable=False),
    )
    bind = op.get_bind()
    keep = sa.text(
        "INSERT INTO row_chunks (digest, rows) VALUES (:digest, :rows) ON CONFLICT DO NOTHING"
    )
    for table, keys in (("tests", ["id"]), ("versions", ["test_id", "number"])):
        chosen = " AND ".join(f"{key} = :{key}" for key in keys)
        listed = bind.execute(sa.text(f"SELECT {', '.join(keys)} FROM {table}"))  # noqa: S608
        for place in listed.mappings().all():
            rows = bind.execute(
                sa.text(f"SELECT body -> 'rows' FROM {table} WHERE {chosen}"),  # noqa: S608
                dict(place),
            ).scalar()
            rows, digests = rows or [], []
            for start in range(0, len(rows), CHUNK):
                text = json.dumps(rows[start : start + CHUNK], sort_keys=True)
                digests.append(hashlib.sha256(text.encode()).hexdigest())
                bind.execute(keep, {"digest": digests[-1], "rows": text})
            packed = json.dumps({"chunks": digests, "count": len(rows)})
            bind.execute(
                sa.text(
                    f"UPDATE {table} SET body = jsonb_set(body, '{{rows}}', "  # noqa: S608
                    f"CAST(:packed AS jsonb)) WHERE {chosen}"
                ),
                {**place, "packed": packed},
            )


def downgrade() -> None:
    for table in ("tests", "versions"):
        op.execute(
            f"""
            UPDATE {table} SET body = jsonb_set(body, '{{rows}}', coalesce((
                SELECT jsonb_agg(row ORDER BY place, number)
                FROM jsonb_array_elements_text(body -> 'rows' -> 'chunks')
                         WITH ORDINALITY AS each(key, place)
                JOIN row_chunks ON row_chunks.digest = each.key,
                     jsonb_array_elements(row_chunks.rows::jsonb) WITH ORDINALITY AS of(row, number)
            ), '[]'))
            """  # noqa: S608
        )
    op.drop_table("row_chunks")
