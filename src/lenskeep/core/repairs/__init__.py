"""What one frame changes of its masks by hand: kept on the frame, never in a recipe."""
