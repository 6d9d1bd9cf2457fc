<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to DraftController::discard().
 */
final class DiscardDraftRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['kind' => ['nullable', 'string'], 'name' => ['nullable', 'string', 'max:190']];
    }
}
