"""Parts of rigs as files, and the generic ones."""
