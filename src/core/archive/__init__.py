"""What leaves a studio as data and comes back: documents with a version, and the records in them."""
