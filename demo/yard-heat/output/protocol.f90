! What the model tells while it runs: one process speaks for all.
module protocol
  use kinds, only: wp
  use communicator, only: my_number
  use text_tools, only: fixed, exactly
  use units, only: celsius
  implicit none
  private
  public :: say, say_number
contains
  subroutine say(text)
    character(len=*), intent(in) :: text
    if (my_number() == 0) write (*, '(a)') text
  end subroutine say
  subroutine say_number(name, temperature)
    character(len=*), intent(in) :: name
    real(wp), intent(in) :: temperature
    call say(name//' '//fixed(celsius(temperature), 3)//' ('//exactly(temperature)//')')
  end subroutine say_number
end module protocol
