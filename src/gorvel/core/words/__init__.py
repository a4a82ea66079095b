"""Sentences, plurals and forms of numbers: whatever is said of plans, trees and counts."""
