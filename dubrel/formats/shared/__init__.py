"""What forms share: what a form is, documents, what stands inside captions, what is lost and read back."""
