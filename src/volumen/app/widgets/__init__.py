"""Small reusable widgets of the panels."""
