"""Instruments as data, and what follows from them: keywork, fingerings, moves of the fingers."""
