"""Practice: attempts, what they tell of a student's reach, and what comes next."""
