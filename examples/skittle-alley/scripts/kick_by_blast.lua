-- Kick away what touches, and all that is near, by a
-- small blast at the point of contact.
dials {
  kick = { 4, unit = "m/s", from = 0, to = 15,
           tip = "speed that it gives at the point" },
  reach = { 2, unit = "m", from = 0.2, to = 8,
            tip = "how far it is felt" },
  who = { tag = "", tip = "who sets it off; "
       .. "none named: whoever touches" },
}

function on.touch(hit)
  local other = hit.other
  if dials.who and not other:has(dials.who) then
    return
  end
  puff(hit.point, dials.reach / 2)
  scene:blast { at = hit.point, radius = dials.reach,
      impulse = dials.kick * other.mass,
      except = body }
end
