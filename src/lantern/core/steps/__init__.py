"""Steps, the catalogue of actions and properties, sentences and edits."""
