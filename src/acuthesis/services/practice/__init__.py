"""The practice and its people: settings, staff, sign-in, passkeys, security notices."""
