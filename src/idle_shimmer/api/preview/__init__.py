"""The live preview of a cut: what the page asks for, the clips, the work, and the socket."""
