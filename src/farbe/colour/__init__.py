"""Colorimetry by the standards: spectra, CIE XYZ and L*a*b*, and how far colours differ."""
