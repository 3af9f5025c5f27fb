"""The pages and pictures of house styles."""
