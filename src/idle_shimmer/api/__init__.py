"""The HTTP and WebSocket interface."""
