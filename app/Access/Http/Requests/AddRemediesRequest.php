<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to TryController::add().
 */
final class AddRemediesRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'items' => ['required', 'array', 'max:40'],
            'items.*' => ['string', 'max:20000'],
            'back' => ['required', 'string', 'starts_with:/guard/', 'max:30000'],
        ];
    }
}
