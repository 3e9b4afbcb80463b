"""The Batch view: versions of this film, what stands in the way, the list, and the proofs."""
