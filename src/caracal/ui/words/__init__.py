"""The Words view: captions, titles and cards."""
