"""Everything that Farbe writes and reads back: jobs, plates, guides, tickets."""
