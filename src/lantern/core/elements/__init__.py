"""What an element is, how it is recognised and which clues serve best."""
