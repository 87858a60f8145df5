"""Fingering charts: the checked catalogue, charts as files, the audit of a chart, where schools differ."""
