"""Things in space on paper: a camera, a box of axes, surfaces as a picture at the printed resolution, lines and type over it."""
