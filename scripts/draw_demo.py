"""Draws the demo clips into var/demo, where they are missing: for tests that show them."""

from pathlib import Path

from idle_shimmer.demo.build import build_clips

if __name__ == "__main__":
    build_clips(Path(__file__).parent.parent / "var" / "demo")
