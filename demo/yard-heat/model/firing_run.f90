! A firing from its first step to its last. How far the firing is at each step is the driver's to say.
module firing_run
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
  implicit none
  private
  public :: run_firing
  abstract interface
    pure real(wp) function progress(step, steps)
      import :: wp
      integer, intent(in) :: step, steps
    end function progress
  end interface
contains
  ! `share_at`: the share of the firing curve that is over at a step.
  subroutine run_firing(settings, share_at)
    type(firing_settings), intent(in) :: settings
    procedure(progress) :: share_at
    type(kiln) :: state
    real(wp) :: share
    integer :: i, steps
    state = kiln_of(settings)
    steps = int(seconds(settings%hours)/settings%step)
    do i = 1, steps
      share = share_at(i, steps)
      call step_air(state, wanted_temperature(share, settings%peak), step_columns(state, speed_of_air(share)))
    end do
    call tell_summary(faces_of(state), cores_of(state), state%hottest)
  end subroutine run_firing
end module firing_run
