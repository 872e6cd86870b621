"""What a result means: fingerprints and defect drafts."""
