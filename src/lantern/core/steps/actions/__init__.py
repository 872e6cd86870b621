"""The actions, by what they are about; each module lists its entries."""
