"""What an audited chart shows: its rows as they were written, and as they were understood."""

from core.charts.audit import Audit, AuditRow
from core.evidence.in_hand import InstrumentInHand


def audited_rows(in_hand: InstrumentInHand, audit: Audit) -> tuple[tuple[AuditRow, str], ...]:
    """Each row, and its touches as the teacher names them; empty where they could not be read."""
    return tuple((row, in_hand.said(row.entry.fingering) if row.entry else "") for row in audit.rows)
