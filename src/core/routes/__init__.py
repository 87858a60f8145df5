"""Routes through a passage: what notes and links cost, the best route, what a change would cost, why."""
