"""Theme, icons, swatches and small pieces that several rooms draw."""
