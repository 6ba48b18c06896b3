! Fires a kiln: reads firing.nml in the working folder, if there is one.
program firing
  use kinds, only: wp
  use settings, only: firing_settings, read_settings
  use communicator, only: begin_together, end_together, my_number
  use driver, only: drive
  use stopwatch, only: seconds_so_far
  implicit none
  real(wp) :: begin
  begin = seconds_so_far()
  call begin_together()
  call drive(read_settings())
  if (my_number() == 0 .and. seconds_so_far() < begin) write (*, '(a)') 'the clock goes backward'
  call end_together()
end program firing
