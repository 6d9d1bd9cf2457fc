<?php

declare(strict_types=1);

namespace App\Platform\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to SignInController::enter().
 */
final class SignInRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['email' => ['required', 'string', 'max:190'], 'password' => ['required', 'string', 'max:190']];
    }
}
