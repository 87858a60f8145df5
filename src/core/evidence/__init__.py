"""What is known of a fingering on the instrument in hand, each source kept apart, and all together."""
