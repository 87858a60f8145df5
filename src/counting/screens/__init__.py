"""What the page of counting shows."""
