"""Surfaces in space as triangles that lie on them, their level lines and their sections by planes."""
