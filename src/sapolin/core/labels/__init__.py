"""What a label says: ingredients by weight, net weight on the last day of sale, claims, and how it is laid out in mm."""
