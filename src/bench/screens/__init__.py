"""Screens: for each a frozen record that its template needs, and the function that builds it."""
