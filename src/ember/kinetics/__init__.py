"""What heat does: death of microbes and, later, colour, collagen, browning and egg gels. Takes arrays."""
