"""The pages of Wording's drawer: each a list of places, with what can be done with them."""
