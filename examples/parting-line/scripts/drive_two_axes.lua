-- Drive by velocity on two axes: what is held sets
-- the speed over the ground; gravity keeps the third
-- axis.
-- needs action: steer (d / a)
-- needs action: go (s / w)
dials {
  speed = { 4, unit = "m/s", from = 0, to = 12,
            tip = "speed at full stick" },
}

function on.tick()
  local stick = vec(axis("steer"), 0, axis("go"))
  local wish = stick:limit(1) * dials.speed
  -- Keep the old y: setting all three would wipe out
  -- what gravity did, and it would never fall.
  body.velocity = vec(wish.x, body.velocity.y,
      wish.z)
end
