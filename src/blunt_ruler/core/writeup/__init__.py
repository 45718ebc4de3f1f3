"""A review as a document: sections of sentences, tables and charts, every figure traceable."""
