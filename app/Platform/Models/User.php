<?php

declare(strict_types=1);

namespace App\Platform\Models;

use App\Platform\Support\Role;
use DateTimeZone;
use Illuminate\Foundation\Auth\User as Authenticatable;
use Illuminate\Support\Carbon;

/**
 * @property int $id
 * @property string $name
 * @property string $email
 * @property string $password
 * @property Role $role
 * @property string $time_zone
 * @property string $theme
 * @property string|null $policy_person name in the policy of who signs in by this account
 * @property Carbon|null $disabled_at
 */
final class User extends Authenticatable
{
    protected $fillable = ['name', 'email', 'password', 'role', 'time_zone', 'theme', 'policy_person'];

    protected $hidden = ['password', 'remember_token'];

    protected function casts(): array
    {
        return ['password' => 'hashed', 'role' => Role::class, 'disabled_at' => 'datetime'];
    }

    public function zone(): DateTimeZone
    {
        return new DateTimeZone($this->time_zone);
    }
}
