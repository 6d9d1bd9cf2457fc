<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to LabelController::assign().
 */
final class AssignLabelRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'on' => ['required', 'string', 'max:300'],
            'key' => ['required', 'string', 'max:120'],
            'value' => ['required', 'string', 'max:190'],
        ];
    }
}
