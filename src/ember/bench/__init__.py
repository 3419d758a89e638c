"""Speed and exactness of the core, measured: `./ember bench`."""
