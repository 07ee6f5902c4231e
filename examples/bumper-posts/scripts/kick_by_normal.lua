-- Kick away what touches, straight off the face that was hit.
dials {
  kick = { 4, unit = "m/s", from = 0, to = 15, tip = "speed that it gives" },
}

function on.touch(hit)
  -- The normal points away from the other body: towards it is the other way.
  hit.other:impulse(hit.normal * -dials.kick * hit.other.mass, hit.point)
end
