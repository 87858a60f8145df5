"""The acoustics of reed woodwinds: what a bore with its open holes answers to the reed.

Plane waves and spherical waves, seen from the reed, time dependence exp(+jωt). SI units without
suffix throughout. Reed woodwinds sound near the maxima of the input impedance.
"""
