"""Results as files: tables, Newick, summary."""
