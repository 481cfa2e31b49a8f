"""What the window works on: the document and its history, the selection, how it is looked at, the commands there are."""
