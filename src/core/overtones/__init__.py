"""Overtones for practice: ladders, matches, untried fingerings, stepping stones, voicing, sound."""
