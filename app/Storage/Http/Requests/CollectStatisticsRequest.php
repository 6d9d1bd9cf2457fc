<?php

declare(strict_types=1);

namespace App\Storage\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to LayoutController::statistics().
 */
final class CollectStatisticsRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['parallel' => ['required', 'integer', 'between:1,8']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['parallel.*' => 'Between 1 and 8 tables can be collected at once.'];
    }
}
