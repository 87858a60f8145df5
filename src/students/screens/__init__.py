"""What each screen of practice shows."""
