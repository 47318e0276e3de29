"""Text: folding, words, phonetic codes, tables of words, and edit-distance kernels."""
