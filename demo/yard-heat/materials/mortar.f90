! What the walls are joined with.
module mortar_material
  use kinds, only: wp
  use units, only: celsius
  use material_base, only: material
  implicit none
  private
  public :: mortar
  type, extends(material) :: mortar
  contains
    procedure :: conductivity
    procedure :: heat_capacity
    procedure :: density
  end type mortar
contains
  pure real(wp) function conductivity(self, temperature)
    class(mortar), intent(in) :: self
    real(wp), intent(in) :: temperature
    conductivity = max(1.0e-3_wp, 0.87_wp + (9e-05_wp)*celsius(temperature))
  end function conductivity
  pure real(wp) function heat_capacity(self, temperature)
    class(mortar), intent(in) :: self
    real(wp), intent(in) :: temperature
    heat_capacity = 920.0_wp + 0.12_wp*celsius(temperature)
  end function heat_capacity
  pure real(wp) function density(self)
    class(mortar), intent(in) :: self
    density = 1900.0_wp
  end function density
end module mortar_material
