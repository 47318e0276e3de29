"""The demo: three registers as they are after some weeks of work, loaded and worked on through the ordinary use cases."""

from .loading import demo_is_loaded, load_demo

__all__ = ["demo_is_loaded", "load_demo"]
