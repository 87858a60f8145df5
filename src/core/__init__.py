"""The rules and computation of the job: no Django, no input or output, no clock, no randomness.

The packages stand in the order of the work, each built on those before it::

    music         pitches, scales, passages, and the open formats of written music
    instruments   what hands reach, what opens, fingerings, and the moves between them
    charts        catalogues of fingerings, charts as files, their audit, where schools differ
    acoustics     what a bore with its open holes answers: physics, fit, hold-out, trust
    evidence      what is known of a fingering on the instrument in hand, source by source
    routes        what a passage costs with each choice, the best route, and why
    overtones     ladders, untried fingerings, stepping stones, voicing, simulated sound
"""
