"""Units at the web's edge: form fields that read them, template filters that write them."""
