"""The demo world: the Lanternwick Players, treated by Ode Marrable. All of it is made up."""
