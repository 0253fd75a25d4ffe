"""The document: plain frozen data, edits, history, session and file format; no arrays, no Qt."""
