"""Speed and accuracy of the core, measured: `./ember bench`."""
