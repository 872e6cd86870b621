"""Plays the sample project in all its moods, and writes down what came of it for the demo."""
