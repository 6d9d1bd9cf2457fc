<?php

declare(strict_types=1);

namespace App\Storage\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to RollupController::rollups().
 */
final class ProposeRollupsRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'space' => ['required', 'numeric', 'min:0'],
            'rollups' => ['required', 'array', 'max:20'],
            'rollups.*' => ['string', 'max:200'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['rollups.required' => 'Tick at least one rollup.'];
    }
}
