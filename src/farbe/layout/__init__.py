"""Where things lie on the bed, in millimetres from the datum."""
