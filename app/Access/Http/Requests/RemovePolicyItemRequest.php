<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to PolicyController::remove().
 */
final class RemovePolicyItemRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['name' => ['required', 'string', 'max:190'], 'revision' => ['required', 'integer']];
    }
}
