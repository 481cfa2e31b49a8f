"""Document to picture: recipes under the lamp become drawing instructions."""
