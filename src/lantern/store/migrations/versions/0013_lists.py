"""Indexes for long lists, and for every foreign key that is followed or cascades."""

from __future__ import annotations

from alembic import op

revision = "0013"
down_revision = "0012"

ADDED = {
    "ix_runs_test_id_kind_id": ("runs", ["test_id", "kind", "id"]),
    "ix_runs_kind_id": ("runs", ["kind", "id"]),
    "ix_runs_state_id": ("runs", ["state", "id"]),
    "ix_runs_environment_id": ("runs", ["environment_id"]),
    "ix_runs_account_id": ("runs", ["account_id"]),
    "ix_defects_account_id": ("defects", ["account_id"]),
    "ix_sightings_result_id": ("sightings", ["result_id"]),
    "ix_tests_environment_id": ("tests", ["environment_id"]),
    "ix_tests_created_by": ("tests", ["created_by"]),
    "ix_versions_author_id": ("versions", ["author_id"]),
    "ix_element_versions_author_id": ("element_versions", ["author_id"]),
    "ix_sign_ins_account_id": ("sign_ins", ["account_id"]),
}
REPLACED = {"ix_runs_test_id": ["test_id"], "ix_runs_state": ["state"]}


def upgrade() -> None:
    for name, (table, columns) in ADDED.items():
        op.create_index(name, table, columns)
    for name in REPLACED:
        op.drop_index(name, "runs")


def downgrade() -> None:
    for name, columns in REPLACED.items():
        op.create_index(name, "runs", columns)
    for name, (table, _) in ADDED.items():
        op.drop_index(name, table)
