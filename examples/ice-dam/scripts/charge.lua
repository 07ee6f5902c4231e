-- Goes off at the cue, or when it is pressed.
-- needs cue: fire
-- needs action: fire (b)
dials {
  charge = { 42000, unit = "N·s",
             from = 500, to = 120000,
             tip = "impulse at its middle" },
  reach = { 4.5, unit = "m", from = 1, to = 10,
            tip = "how far it is felt" },
}

local spent = false

local function go_off()
  if spent then return end
  spent = true
  scene:blast { at = body.position + vec(0, 0.6, 0),
      radius = dials.reach, impulse = dials.charge,
      upward = 0.2 }
  puff(body.position, 1.5)
  sound("blast", 1)
  body:remove()
end

function on.cue(name)
  if name == "fire" then go_off() end
end

function on.press(action)
  if action == "fire" then go_off() end
end
