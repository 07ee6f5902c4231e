-- shove.lua: shoves its body once, some seconds in.
dials {
  shove = { 420, unit = "N·s", from = 0, to = 2000,
            tip = "impulse towards the casks" },
  lift  = { 260, unit = "N·s", from = 0, to = 800,
            tip = "impulse upwards" },
  wait  = { 1.0, unit = "s", from = 0, to = 4,
            tip = "how long it waits" },
}

function on.play()
  after(dials.wait, function()
    body:impulse(vec(dials.shove, dials.lift, 0))
  end)
end

function on.touch(hit)
  if hit.other:has("cask") then
    print("struck", hit.other, "at", hit.speed,
        "m/s")
  end
end
