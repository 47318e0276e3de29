"""Others are told what becomes of golden records."""
