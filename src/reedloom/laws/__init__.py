"""The laws of the engine and the promises of declarations, for any kind from its declaration alone."""
