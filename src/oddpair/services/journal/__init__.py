"""The journal: every act of a person or the machine, listed and verified."""
