"""How processes of ours are started, asked, and ended."""
