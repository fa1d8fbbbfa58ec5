"""The web application: routers by noun, thin. It says what, never how."""
