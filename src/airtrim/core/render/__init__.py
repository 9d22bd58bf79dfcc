"""From timeline and takes to sound: one graph for preview, measurement and export."""
