"""What the API takes and gives, a module for each of its routers."""
