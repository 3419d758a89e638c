"""What finished cooks say of a kitchen: how far its ovens, baths and pans are off, how thick its pieces are."""
