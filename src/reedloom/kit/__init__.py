"""The language in which kinds are declared; its names are stable, for kinds in a user's own folder too."""
