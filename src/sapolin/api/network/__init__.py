"""The local network: where the application listens for second devices, its certificate, and who may pass."""
