"""The rules and computation of the job: no Django, no input or output, no clock, no randomness."""
