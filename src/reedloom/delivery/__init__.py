"""Map sets as files: encoding, naming, and writing them whole or not at all."""
