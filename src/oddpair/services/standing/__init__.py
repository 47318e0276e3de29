"""The register as a standing service: deliveries are recognised as they come in."""
