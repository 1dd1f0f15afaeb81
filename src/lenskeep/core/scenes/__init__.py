"""Where one scene of a shoot ends and the next begins, and which frames are one burst."""
