"""Clean-up: marks on a picture healed, or covered from elsewhere, before every step."""
