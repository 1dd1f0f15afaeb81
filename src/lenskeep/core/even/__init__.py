"""How far the frames of a scene differ in exposure and balance, measured in like parts; and how sure that is."""
