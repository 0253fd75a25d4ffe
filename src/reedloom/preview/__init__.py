"""How data become pictures: encodings, stand-ins, samples for the creel; no Qt."""
