"""The document: frozen typed structs, walking and replacing, validation."""
