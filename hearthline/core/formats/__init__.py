"""Files: cells, benches, kits, decks, runs, tables, journals."""
