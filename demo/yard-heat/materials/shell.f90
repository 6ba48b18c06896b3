! The steel around the kiln.
module shell_material
  use kinds, only: wp
  use units, only: celsius
  use material_base, only: material
  implicit none
  private
  public :: shell
  type, extends(material) :: shell
  contains
    procedure :: conductivity
    procedure :: heat_capacity
    procedure :: density
  end type shell
contains
  pure real(wp) function conductivity(self, temperature)
    class(shell), intent(in) :: self
    real(wp), intent(in) :: temperature
    conductivity = max(1.0e-3_wp, 48.0_wp + (-0.022_wp)*celsius(temperature))
  end function conductivity
  pure real(wp) function heat_capacity(self, temperature)
    class(shell), intent(in) :: self
    real(wp), intent(in) :: temperature
    heat_capacity = 470.0_wp + 0.3_wp*celsius(temperature)
  end function heat_capacity
  pure real(wp) function density(self)
    class(shell), intent(in) :: self
    density = 7850.0_wp
  end function density
end module shell_material
