-- Blast on a hard impact, then gone.
dials {
  blow = { 3, unit = "m/s", from = 0, to = 20,
           tip = "closing speed that sets it off" },
  impulse = { 40, unit = "N·s", from = 0, to = 400,
              tip = "at the middle of the blast" },
  radius = { 3, unit = "m", from = 0.5, to = 12,
             tip = "how far it is felt" },
  who = { tag = "", tip = "whose blows count; "
       .. "none named: everyone's" },
  upward = { 0.3, from = 0, to = 1,
    tip = "share of the push that goes up" },
}

function on.touch(hit)
  if hit.speed < dials.blow then return end
  if dials.who and not hit.other:has(dials.who) then
    return
  end
  puff(body.position, dials.radius)
  sound("thump")
  scene:blast { at = body.position,
      radius = dials.radius, impulse = dials.impulse,
      upward = dials.upward, except = body }
  body:remove()
end
