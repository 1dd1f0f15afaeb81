"""The demo: a made-up shoot and a recipe, brought in the way a photographer would."""
