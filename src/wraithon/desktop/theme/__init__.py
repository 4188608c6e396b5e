"""The look: colours, fonts, icons."""
