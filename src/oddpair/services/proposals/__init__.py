"""What needs a second yes, and what waits for it: asked by every act before it is done."""
