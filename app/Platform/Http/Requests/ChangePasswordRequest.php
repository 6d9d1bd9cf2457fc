<?php

declare(strict_types=1);

namespace App\Platform\Http\Requests;

use App\Platform\Models\User;
use App\Platform\Support\StrongPassword;
use Illuminate\Foundation\Http\FormRequest;

/**
 * The old password and a new one.
 */
final class ChangePasswordRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        $user = $this->user();
        $own = $user instanceof User ? [$user->name, $user->email] : [];

        return [
            'current_password' => ['required', 'current_password'],
            'password' => ['required', 'string', 'max:190', 'confirmed', new StrongPassword($own)],
        ];
    }
}
