"""The effects of heat: inactivation of microbes, colour, collagen, browning and egg gels. Takes arrays."""
