"""What people are written: texts in several languages, and letters made of them."""
