"""The part of CSS that touches fonts and text: parsed, cascaded and computed."""
