"""Speed, measured: `./run bench`."""
