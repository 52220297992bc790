"""Pictures of simulated riders: parts of the body as meshes, lit and filmed with OpenGL."""
