! A whole firing, from cold to cold, by the curve.
module driver
  use kinds, only: wp
  use settings, only: firing_settings
  use units, only: seconds
  use kiln_state, only: kiln, kiln_of
  use columns_step, only: step_columns
  use air_step, only: step_air
  use curve, only: wanted_temperature
  use fan, only: speed_of_air
  use results, only: faces_of, cores_of
  use summary, only: tell_summary
  use protocol, only: say
  implicit none
  private
  public :: drive
contains
  subroutine drive(settings)
    type(firing_settings), intent(in) :: settings
    type(kiln) :: state
    real(wp) :: share
    integer :: i, steps
    call say('a whole firing')
    state = kiln_of(settings)
    steps = int(seconds(settings%hours)/settings%step)
    do i = 1, steps
      share = real(i, wp)/real(steps, wp)
      call step_air(state, wanted_temperature(share, settings%peak), step_columns(state, speed_of_air(share)))
    end do
    call tell_summary(faces_of(state), cores_of(state), state%hottest)
  end subroutine drive
end module driver
