"""Written music: pitches and intervals, scales, passages of one line, the formats they are kept in."""
