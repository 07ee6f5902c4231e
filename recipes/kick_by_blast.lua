-- Kick away what touches, and all that is near, by a
-- small blast at the point of contact.
dials {
  kick = { 20, unit = "N·s", from = 0, to = 100,
           tip = "impulse at the point" },
  reach = { 2, unit = "m", from = 0.2, to = 8,
            tip = "how far it is felt" },
}

function on.touch(hit)
  puff(hit.point, dials.reach / 2)
  scene:blast { at = hit.point, radius = dials.reach,
      impulse = dials.kick, except = body }
end
